import { useCallback, useState } from "react";
import { api, type ReelChange, type ReelView } from "../api/client";
import { useChanges } from "../api/useChanges";

/** The edit as it stands, ways to change it, and a change that is being tried. */
export function useReel(id: number) {
  const [trying, setTrying] = useState<ReelChange | null>(null);
  const { run, ...found } = useChanges<ReelView>("reel", id, {
    load: () => api.reel(id),
    settled: () => setTrying(null),
  });
  const change = useCallback(
    (change: ReelChange) => run((now) => api.changeReel(id, now.revision, change)),
    [id, run],
  );
  return { ...found, change, run, trying, setTrying };
}

export type ChangeReel = ReturnType<typeof useReel>["change"];

export type Selection = { kind: "cut"; left: string } | { kind: "shot"; shot: string } | null;
