import { App } from "antd";
import { useEffect } from "react";
import type { RefObject } from "react";
import type { ReelView } from "../api/client";
import type { ScreenHandle } from "../player/Screen";
import { useKeys, type ActsOf } from "../shell/useKeys";
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

/** The keys of the Reel. */
export function useReelKeys({ view, change, undo, redo, screen, goTo }: Props) {
  const { set } = reelStore.getState();
  const { message } = App.useApp();
  const acts = (view: ReelView): ActsOf<"reel"> => {
    const now = reelStore.getState;
    const names = () => {
      const { selected } = now();
      return selected?.kind === "placed" ? selected.names : [];
    };
    const edges = () =>
      [
        ...new Set([
          0,
          view.length - 1,
          ...placedOf(view).flatMap((one) => [one.begins, endOf(one)]),
          ...cutsOf(view).map((cut) => cutFrame(view, cut)),
        ]),
      ].sort((a, b) => a - b);
    const far = (event: KeyboardEvent) => (event.shiftKey ? 10 : 1);
    return {
      toggle: () => screen.current?.toggle(),
      stop: () => screen.current?.stop(),
      forwards: () => screen.current?.play(1),
      backwards: () => screen.current?.play(-1),
      back: (event) => goTo(now().frame - far(event)),
      on: (event) => goTo(now().frame + far(event)),
      previousEdge: () =>
        goTo(
          edges()
            .filter((at) => at < now().frame)
            .at(-1) ?? 0,
        ),
      nextEdge: () => goTo(edges().find((at) => at > now().frame) ?? view.length - 1),
      first: () => goTo(0),
      last: () => goTo(view.length - 1),
      undo,
      redo,
      split: () => change({ do: "split", frame: now().frame, only: names() }),
      remove: (event) => {
        const { selected } = now();
        const gone = selected?.kind === "placed" ? names() : selectedUses(view, selected);
        if (!gone.length) return;
        void change({ do: "remove", names: gone, close: !event.shiftKey });
        if (selected?.kind !== "cuts") set({ selected: null });
      },
      markIn: () => {
        const { frame } = now();
        return change({ do: "set-reel", mark_in: view.mark_in === frame ? -1 : frame });
      },
      markOut: () => {
        const end = now().frame + 1;
        return change({ do: "set-reel", mark_out: view.mark_out === end ? -1 : end });
      },
      mark: () => {
        const name = `Mark ${view.marks.length + 1}`;
        return change({ do: "set-mark", frame: now().frame, name });
      },
      snap: () => {
        const { snap } = now();
        set({ snap: !snap });
        void message.info(snap ? "Snapping is off." : "Snapping is on: edges snap to others.");
      },
      closer: () => zoomBy(CLOSER),
      away: () => zoomBy(1 / CLOSER),
      whole: () => set({ zoom: null }),
      before: () => set({ before: true }),
      leave: () => set({ selected: null }),
      all: () => set({ selected: { kind: "placed", names: view.shots.map((one) => one.id) } }),
      copy: () => {
        const picked = names();
        if (!picked.length) return;
        set({ copied: { kind: "placed", names: picked } });
        void message.info(
          `${picked.length > 1 ? `${picked.length} copied` : "Copied"}. Ctrl+V puts it at the playhead.`,
        );
      },
      paste: () => {
        const { copied, frame } = now();
        if (copied?.kind === "placed") void change({ do: "copy", names: copied.names, frame });
      },
    };
  };
  useKeys("reel", view ? acts(view) : null);
  useEffect(() => {
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "b") set({ before: false });
    };
    window.addEventListener("keyup", up);
    return () => window.removeEventListener("keyup", up);
  }, [set]);
}
