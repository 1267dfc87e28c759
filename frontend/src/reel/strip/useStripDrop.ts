import { App } from "antd";
import { useState, type RefObject } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { asked } from "../../api/asked";
import { bringIn, type Material } from "../../api/client";
import { rateOf } from "../../player/timecode";
import type { Ground } from "./ground";
import { LEFT } from "./geometry";

/** The media type of a dragged material. */
export const MATERIAL = "application/x-pale-static-material";

/** The frames of the edit that a material lasts; a still lasts three seconds. */
export function framesOfMaterial(one: Material, rate: number): number {
  if (!one.facts.rate) return Math.round(rate * 3);
  const frames = (one.facts.frames ?? 1) * (rate / rateOf(one.facts.rate));
  return Math.max(1, Math.floor(frames + 1e-6));
}

/** Clips dropped on the strip, from the tray or from the desktop. */
export function useStripDrop(ground: Ground, box: RefObject<HTMLElement | null>) {
  const { view, rate, scale, change, snap } = ground;
  const [at, setAt] = useState<number | null>(null);
  const { message } = App.useApp();
  const client = useQueryClient();
  const frameOf = (event: React.DragEvent) => {
    const strip = box.current!;
    const x = event.clientX - strip.getBoundingClientRect().left + strip.scrollLeft;
    return Math.max(
      0,
      snap((x - LEFT) / scale.frame, event.nativeEvent as unknown as PointerEvent),
    );
  };
  const put = (one: Material, frame: number, over: boolean, above: boolean) => {
    const length = framesOfMaterial(one, rate);
    if (above) return change({ do: "add-item", name: one.name, material: one.id, frame, length });
    // After the end it follows the last shot, unless it goes on a row above.
    const end = view.shots.at(-1);
    const last = end ? end.begins + end.length : 0;
    const to = over ? frame : Math.min(frame, last);
    return change({ do: "add-shot", name: one.name, material: one.id, length, frame: to, over });
  };
  const take = async (event: React.DragEvent) => {
    const frame = frameOf(event);
    const target = event.target as HTMLElement;
    const above = Boolean(target.closest("[data-rows]"));
    const over = event.shiftKey;
    const dragged = event.dataTransfer.getData(MATERIAL);
    const files = [...event.dataTransfer.files];
    setAt(null);
    if (dragged) return void put(JSON.parse(dragged) as Material, frame, over, above);
    let to = frame;
    for (const file of files) {
      try {
        const one = await bringIn(file);
        await client.invalidateQueries(asked.materials());
        await put(one, to, over, above);
        to += framesOfMaterial(one, rate);
      } catch (error) {
        void message.error((error as Error).message);
      }
    }
  };
  return {
    at,
    over: at !== null,
    zone: {
      onDragOver: (event: React.DragEvent) => {
        event.preventDefault();
        setAt(frameOf(event));
      },
      onDragLeave: () => setAt(null),
      onDrop: (event: React.DragEvent) => {
        event.preventDefault();
        void take(event);
      },
    },
  };
}
