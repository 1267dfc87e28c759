import { useQueryClient } from "@tanstack/react-query";
import type { RefObject } from "react";
import { asked } from "../api/asked";
import type { DraftView } from "../api/client";
import type { ScreenHandle } from "../player/Screen";
import { useKeys, type ActsOf } from "../shell/useKeys";
import { inOrder } from "./lanes/DragGround";
import { findStep, placeOf, type Spot } from "./graph";
import { benchStore, VIEWS } from "./store";
import type { ChangeDraft, useDraft } from "./useDraft";

interface Props {
  draft: DraftView | undefined;
  screen: RefObject<ScreenHandle | null>;
  frame: number;
  length: number;
  change: ChangeDraft;
  undo: ReturnType<typeof useDraft>["undo"];
  redo: ReturnType<typeof useDraft>["redo"];
  onAdd: (spot: Spot) => void;
  onNote: (pinned: { lane?: string; step?: string }) => void;
  onStage: () => void;
}

/** The keys of the Bench. */
export function useBenchKeys(props: Props) {
  const { draft, screen, frame, length, change, undo, redo, onAdd, onNote, onStage } = props;
  const client = useQueryClient();
  const { go, select, set } = benchStore.getState();
  const acts = (draft: DraftView): ActsOf<"bench"> => {
    const to = (at: number) => {
      screen.current?.stop();
      go(Math.min(length - 1, Math.max(0, at)));
    };
    const toKey = (pick: (places: number[]) => number) =>
      void client.fetchQuery(asked.curves(draft, length)).then(({ curves }) => {
        const places = curves.flatMap((one) =>
          one.keys.map((at) => Math.round(at.share * (length - 1))),
        );
        const next = pick(places);
        if (Number.isFinite(next)) go(next);
      });
    const picked = () => inOrder(draft, benchStore.getState().picked.map(placeOf));
    const selected = () => benchStore.getState().selected;
    const far = (event: KeyboardEvent) => (event.shiftKey ? 10 : 1);
    return {
      toggle: () => screen.current?.toggle(),
      stop: () => screen.current?.stop(),
      forwards: () => screen.current?.play(1),
      backwards: () => screen.current?.play(-1),
      back: (event) => to(frame - far(event)),
      on: (event) => to(frame + far(event)),
      first: () => go(0),
      last: () => go(length - 1),
      previousKey: () => toKey((places) => Math.max(...places.filter((at) => at < frame))),
      nextKey: () => toKey((places) => Math.min(...places.filter((at) => at > frame))),
      add: () => {
        const held = findStep(draft.effect, selected());
        const into = held?.lane ?? draft.effect.lanes.at(-1)!;
        onAdd({
          lane: into.id,
          at: held ? held.at + 1 : (into.steps ?? []).length,
          inside: held?.inside?.id ?? null,
        });
      },
      turn: () => {
        const held = findStep(draft.effect, selected());
        const several = picked();
        const steps = several.length > 1 || !held ? several : [selected()!];
        const off = steps.every((one) => !findStep(draft.effect, one)?.step.on);
        if (steps.length) void change({ do: "turn-steps", steps, on: off });
      },
      note: () => onNote(selected() ?? {}),
      removeSteps: () => {
        const steps = picked();
        if (!steps.length) return false;
        select(null);
        return change({ do: "remove-steps", steps });
      },
      leave: () => {
        const looking = benchStore.getState();
        if (looking.pipette) set({ pipette: null });
        else if (looking.picked.length > 1) looking.pick([]);
        else if (looking.selected) select(null);
        else return false;
        return true;
      },
      expose: () => {
        const row = document.querySelector<HTMLElement>(
          "[data-value]:focus-within, [data-value]:hover",
        );
        const { lane, step, value } = row?.dataset ?? {};
        if (!lane || !step || !value) return false;
        return change({ do: "expose", lane, step, value_name: value });
      },
      view: () => {
        const at = VIEWS.findIndex((one) => one.key === benchStore.getState().view);
        set({ view: VIEWS[(at + 1) % VIEWS.length]!.key });
      },
      undo,
      redo,
      stage: onStage,
      wide: () => set({ wide: !benchStore.getState().wide }),
    };
  };
  useKeys("bench", draft ? acts(draft) : null);
}
