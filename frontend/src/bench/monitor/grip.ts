import type { DraftView, Step, ValueKind } from "../../api/client";
import type { Place } from "../store";
import { valueOf } from "../../api/values";
import { useDrag } from "../../controls/useDrag";
import { useSetting } from "../values/setting";
import type { ChangeDraft } from "../useDraft";

/** The things that all handles on the picture work on. */
export interface Held {
  draft: DraftView;
  frame: number;
  length: number;
  size: { width: number; height: number };
  change: ChangeDraft;
}

/** A value of a step with a handle. */
export interface One extends Held {
  place: Place;
  step: Step;
  kind: ValueKind;
}

/** A value with a handle: its present setting, and the change that sets it. */
export const useHeld = ({ step, ...asked }: One) =>
  useSetting({ ...asked, value: valueOf(step, asked.kind) });

/** The pointer's place, in shares of the frame. */
function shareOf(svg: SVGSVGElement, event: { clientX: number; clientY: number }) {
  const box = svg.getBoundingClientRect();
  return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height] as const;
}

/** A handle on the picture, dragged in shares of the frame. */
export function useHandle(
  onMove: (x: number, y: number, fine: boolean) => void,
  onEnd: () => void,
) {
  const drag = useDrag({
    move: (event, held) => {
      const [x, y] = shareOf((held as SVGElement).ownerSVGElement!, event);
      onMove(x, y, event.shiftKey);
    },
    end: onEnd,
  });
  return { onPointerDown: (event: React.PointerEvent) => drag(event) };
}

export const rounded = (value: number, places = 4) => Number(value.toFixed(places));
