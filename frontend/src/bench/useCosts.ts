import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { asked } from "../api/asked";
import type { DraftView } from "../api/client";
import { sinceOf, usePreview } from "./frames";
import { shownAs, usePlaying } from "./playing";

/** How long the monitor's picture is waited for, in milliseconds. */
const PATIENCE = 800;

/** Milliseconds, and bytes of the result. */
export interface Cost {
  ms: number;
  bytes: number;
}

/** What each step cost when it was last computed for the monitor, by "lane.step". */
export function useCosts(draft: DraftView, frame: number, length: number): Map<string, Cost> {
  const settled = useSettled(frame, 250);
  const size = usePreview();
  // The monitor's picture has to be computed first for there to be something to tell.
  const wanted = shownAs(draft, settled);
  const there = usePlaying((state) => state.shown === wanted);
  const [waited, setWaited] = useState<string>();
  useEffect(() => {
    const timer = setTimeout(() => setWaited(wanted), PATIENCE);
    return () => clearTimeout(timer);
  }, [wanted]);
  const late = waited === wanted;
  const found = useQuery({
    ...asked.costs({ id: draft.id, revision: sinceOf(draft) }, { frame: settled, length, ...size }),
    enabled: there || late,
    placeholderData: (before) => before,
    retry: false,
  });
  const { refetch } = found;
  const partial = useRef<string>(undefined);
  useEffect(() => {
    if (late && !there) partial.current = wanted;
    if (there && partial.current === wanted) void refetch();
  }, [late, there, wanted, refetch]);
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
