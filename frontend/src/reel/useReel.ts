import { useState } from "react";
import { asked } from "../api/asked";
import { answered, http, type ReelChange, type ReelView, type Use } from "../api/client";
import { useChanges } from "../api/useChanges";

/** The current edit, functions to change it, and a change on trial. */
export function useReel(id: number) {
  const [trying, setTrying] = useState<ReelChange | null>(null);
  const settled = () => setTrying(null);
  const { run, ...found } = useChanges<ReelView>(asked.reel(id), settled);
  const change = (change: ReelChange) =>
    run(
      ({ revision: base }) =>
        answered(
          http.POST("/api/reels/{number}/changes", {
            params: { path: { number: id } },
            body: { base, change },
          }),
        ),
      { expected: (now) => expected(now, change) },
    );
  const params = { path: { number: id } };
  const undo = () =>
    run(({ revision: base }) =>
      answered(http.POST("/api/reels/{number}/undo", { params, body: { base } })),
    );
  const redo = () =>
    run(({ revision: base }) =>
      answered(http.POST("/api/reels/{number}/redo", { params, body: { base } })),
    );
  return { ...found, change, undo, redo, trying, setTrying };
}

/** The expected edit after a change; the same edit if only the server knows. */
function expected(view: ReelView, change: ReelChange): ReelView {
  if (change.do !== "set-use" || !change.settings) return view;
  const { uses, settings } = change;
  const set = <T extends Use>(use: T): T =>
    uses.includes(use.id) ? { ...use, settings: { ...use.settings, ...settings } } : use;
  return {
    ...view,
    joins: view.joins.map(set),
    shots: view.shots.map((shot) => ({ ...shot, looks: shot.looks.map(set) })),
    items: view.items.map((item) => ({
      ...item,
      use: item.use && set(item.use),
      looks: item.looks.map(set),
    })),
  };
}

export type ChangeReel = ReturnType<typeof useReel>["change"];
