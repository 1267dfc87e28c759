import { useCallback, useState } from "react";
import { asked } from "../api/asked";
import { answered, http, type ReelChange, type ReelView } from "../api/client";
import { useChanges } from "../api/useChanges";

/** The edit as it stands, ways to change it, and a change that is being tried. */
export function useReel(id: number) {
  const [trying, setTrying] = useState<ReelChange | null>(null);
  const settled = () => setTrying(null);
  const { run, ...found } = useChanges<ReelView>(asked.reel(id), settled);
  const change = useCallback(
    (change: ReelChange) =>
      run(
        ({ revision: base }) =>
          answered(
            http.POST("/api/reels/{number}/changes", {
              params: { path: { number: id } },
              body: { base, change },
            }),
          ),
        { expected: (now) => expected(now, change) },
      ),
    [id, run],
  );
  const params = { path: { number: id } };
  const undo = () => run(() => answered(http.POST("/api/reels/{number}/undo", { params })));
  const redo = () => run(() => answered(http.POST("/api/reels/{number}/redo", { params })));
  return { ...found, change, undo, redo, trying, setTrying };
}

/** An edit as a change will most likely leave it; the same where only the server can tell. */
function expected(view: ReelView, change: ReelChange): ReelView {
  if (change.do !== "set-join" || !change.settings) return view;
  const joins = view.joins.map((one) =>
    one.id === change.join ? { ...one, settings: { ...one.settings, ...change.settings } } : one,
  );
  return { ...view, joins };
}

export type ChangeReel = ReturnType<typeof useReel>["change"];

export type Selection = { kind: "cut"; left: string } | { kind: "shot"; shot: string } | null;
