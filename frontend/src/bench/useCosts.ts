import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { asked } from "../api/asked";
import type { DraftView } from "../api/client";
import { usePreview } from "./frames";
import { usePictureCame } from "./playing";

/** Milliseconds, and bytes of the result. */
export interface Cost {
  ms: number;
  bytes: number;
}

/** What each step cost when it was last computed for the monitor, by "lane.step". */
export function useCosts(draft: DraftView, frame: number, length: number): Map<string, Cost> {
  const settled = useSettled(frame, 250);
  const size = usePreview();
  const came = usePictureCame(draft.id);
  const found = useQuery({
    ...asked.costs(draft, { frame: settled, length, ...size }),
    // The monitor's picture has to be computed first for there to be something to tell.
    refetchInterval: (state) => (state.state.dataUpdateCount < 3 ? 400 : false),
    enabled: came,
    placeholderData: (before) => before,
    retry: false,
  });
  return new Map((found.data?.steps ?? []).map((one) => [`${one.lane}.${one.step}`, one]));
}

/** A value once it has stood still for a while. */
export function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}

/** What steps of a lane cost together; undefined where none was computed. */
export function costOf(
  costs: Map<string, Cost>,
  lane: string,
  steps: readonly { id: string }[],
): Cost | undefined {
  const ms = steps.reduce((sum, one) => sum + (costs.get(`${lane}.${one.id}`)?.ms ?? 0), 0);
  return ms ? { ms, bytes: 0 } : undefined;
}
