import { App } from "antd";
import { useEffect } from "react";
import type { RefObject } from "react";
import type { ReelView } from "../api/client";
import type { ScreenHandle } from "../player/Screen";
import { useKeys } from "../shell/useKeys";
import { cutsOf, cutFrame, endOf, placedOf, selectedUses } from "./selection";
import { reelStore, zoomBy } from "./store";
import type { ChangeReel } from "./useReel";

interface Props {
  view: ReelView | undefined;
  change: ChangeReel;
  undo: () => unknown;
  redo: () => unknown;
  screen: RefObject<ScreenHandle | null>;
  goTo: (frame: number) => void;
}

const CLOSER = 1.5;

/** The keys of the Reel; `?` lists them. */
export function useReelKeys({ view, change, undo, redo, screen, goTo }: Props) {
  const { set } = reelStore.getState();
  const { message } = App.useApp();
  const act = (key: string, event: KeyboardEvent): boolean | undefined => {
    const { frame, selected, snap, copied } = reelStore.getState();
    if (!view) return;
    const far = event.shiftKey ? 10 : 1;
    const names = selected?.kind === "placed" ? selected.names : [];
    const edges = [
      ...new Set([
        0,
        view.length - 1,
        ...placedOf(view).flatMap((one) => [one.begins, endOf(one)]),
        ...cutsOf(view.shots).map((cut) => cutFrame(view, cut)),
      ]),
    ].sort((a, b) => a - b);
    const remove = (close: boolean) => {
      const gone = selected?.kind === "placed" ? names : selectedUses(view, selected);
      if (!gone.length) return;
      void change({ do: "remove", names: gone, close });
      if (selected?.kind !== "cuts") set({ selected: null });
    };
    const acts: Record<string, () => void> = {
      " ": () => screen.current?.toggle(),
      k: () => screen.current?.stop(),
      l: () => screen.current?.play(1),
      j: () => screen.current?.play(-1),
      ArrowLeft: () => goTo(frame - far),
      ArrowRight: () => goTo(frame + far),
      "Ctrl+ArrowLeft": () => goTo(edges.filter((at) => at < frame).at(-1) ?? 0),
      "Ctrl+ArrowRight": () => goTo(edges.find((at) => at > frame) ?? view.length - 1),
      Home: () => goTo(0),
      End: () => goTo(view.length - 1),
      "Ctrl+z": () => void undo(),
      "Ctrl+Shift+z": () => void redo(),
      x: () => void change({ do: "split", frame, only: names }),
      Delete: () => remove(!event.shiftKey),
      "[": () => void change({ do: "set-reel", mark_in: view.mark_in === frame ? -1 : frame }),
      "]": () =>
        void change({ do: "set-reel", mark_out: view.mark_out === frame + 1 ? -1 : frame + 1 }),
      m: () => void change({ do: "set-mark", frame, name: `Mark ${view.marks.length + 1}` }),
      a: () => {
        set({ snap: !snap });
        void message.info(
          snap ? "Edges are not drawn to others now." : "Edges are drawn to others.",
        );
      },
      "+": () => zoomBy(CLOSER),
      "=": () => zoomBy(CLOSER),
      "-": () => zoomBy(1 / CLOSER),
      "0": () => set({ zoom: null }),
      b: () => set({ before: true }),
      Escape: () => set({ selected: null }),
      "Ctrl+a": () => set({ selected: { kind: "placed", names: view.shots.map((one) => one.id) } }),
      "Ctrl+c": () => {
        if (!names.length) return;
        set({ copied: { kind: "placed", names } });
        void message.info(
          `${names.length > 1 ? `${names.length} copied` : "Copied"}. Ctrl+V puts it at the playhead.`,
        );
      },
      "Ctrl+v": () => {
        if (copied?.kind === "placed") void change({ do: "copy", names: copied.names, frame });
      },
    };
    if (!(key in acts)) return;
    acts[key]!();
    return true;
  };
  useKeys(act);
  useEffect(() => {
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "b") set({ before: false });
    };
    window.addEventListener("keyup", up);
    return () => window.removeEventListener("keyup", up);
  }, [set]);
}
