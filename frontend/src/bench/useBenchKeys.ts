import { useQueryClient } from "@tanstack/react-query";
import type { RefObject } from "react";
import { asked } from "../api/asked";
import type { DraftView } from "../api/client";
import type { ScreenHandle } from "../player/Screen";
import { useKeys } from "../shell/useKeys";
import { inOrder } from "./DragGround";
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

/** What the keys do on the Bench; the list under “?” says it in words. */
export function useBenchKeys(props: Props) {
  const { draft, screen, frame, length, change, undo, redo, onAdd, onNote, onStage } = props;
  const client = useQueryClient();
  useKeys((key, event) => {
    if (!draft) return;
    const far = event.shiftKey ? 10 : 1;
    const looking = benchStore.getState();
    const { go, select, set } = looking;
    const selected = looking.selected;
    switch (key) {
      case " ":
      case "k":
        if (key === " ") screen.current?.toggle();
        else screen.current?.stop();
        return true;
      case "l":
        screen.current?.play(1);
        return true;
      case "j":
        screen.current?.play(-1);
        return true;
      case "ArrowLeft":
      case "ArrowRight":
        screen.current?.stop();
        go(Math.min(length - 1, Math.max(0, frame + (key === "ArrowLeft" ? -far : far))));
        return true;
      case "Home":
        go(0);
        return true;
      case "End":
        go(length - 1);
        return true;
      case "Ctrl+ArrowLeft":
      case "Ctrl+ArrowRight":
        void client.fetchQuery(asked.curves(draft, length)).then(({ curves }) => {
          const places = curves.flatMap((one) =>
            one.keys.map((at) => Math.round(at.share * (length - 1))),
          );
          const next =
            key === "Ctrl+ArrowRight"
              ? Math.min(...places.filter((at) => at > frame))
              : Math.max(...places.filter((at) => at < frame));
          if (Number.isFinite(next)) go(next);
        });
        return true;
      case "/": {
        const held = findStep(draft.effect, selected);
        const into = held?.lane ?? draft.effect.lanes.at(-1)!;
        onAdd({
          lane: into.id,
          at: held ? held.at + 1 : (into.steps ?? []).length,
          inside: held?.inside?.id ?? null,
        });
        return true;
      }
      case "o": {
        const held = findStep(draft.effect, selected);
        const picked = inOrder(draft, looking.picked.map(placeOf));
        const steps = picked.length > 1 || !held ? picked : [selected!];
        const off = steps.every((one) => !findStep(draft.effect, one)?.step.on);
        if (steps.length) void change({ do: "turn-steps", steps, on: off });
        return true;
      }
      case "n":
        onNote(selected ?? {});
        return true;
      case "Delete": {
        const steps = inOrder(draft, looking.picked.map(placeOf));
        if (!steps.length) return;
        select(null);
        void change({ do: "remove-steps", steps });
        return true;
      }
      case "Escape":
        if (looking.pipette) set({ pipette: null });
        else if (looking.picked.length > 1) looking.pick([]);
        else if (looking.selected) select(null);
        else return;
        return true;
      case "e": {
        const row = document.querySelector<HTMLElement>(
          "[data-value]:focus-within, [data-value]:hover",
        );
        const { lane, step, value } = row?.dataset ?? {};
        if (!lane || !step || !value) return;
        void change({ do: "expose", lane, step, value_name: value });
        return true;
      }
      case "v":
        set({
          view: VIEWS[(VIEWS.findIndex((one) => one.key === looking.view) + 1) % VIEWS.length]!.key,
        });
        return true;
      case "Ctrl+z":
        void undo();
        return true;
      case "Ctrl+Shift+z":
        void redo();
        return true;
      case "Ctrl+s":
        onStage();
        return true;
    }
    return;
  });
}
