import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { create, type StoreApi } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { asked } from "../../api/asked";
import type { DraftView, Lane, Step } from "../../api/client";
import { sinceOf, usePreview } from "../frames";
import { everyStep } from "../graph";
import { shownAs, usePlaying } from "../monitor/playing";
import { useSettledFrame } from "../store";

/** The longest wait for the monitor's picture, in milliseconds. */
const PATIENCE = 800;

/** Milliseconds, and bytes of the result. */
export interface Cost {
  ms: number;
  bytes: number;
}

/** The cost of each step when it was last computed for the monitor, by "lane.step". */
const useCostStore = create<Record<string, Cost>>(() => ({}));
const costStore: StoreApi<Record<string, Cost>> = useCostStore;

/**
 * Fetches the costs of a draft's steps and keeps them for the cards, so that an answer redraws only
 * changed cards.
 */
export function AskCosts({ draft, length }: { draft: DraftView; length: number }) {
  const settled = useSettledFrame(length, 250);
  const size = usePreview();
  // Costs exist only after the monitor's picture was computed.
  const wanted = shownAs(draft, settled, length, size);
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
  const { data } = found;
  useEffect(() => {
    const steps = data?.steps ?? [];
    costStore.setState(
      Object.fromEntries(steps.map((one) => [`${one.lane}.${one.step}`, one])),
      true,
    );
  }, [data]);
  return null;
}

/** The cost of a step with the steps that it holds; undefined if nothing was computed. */
export function useCost(lane: string, step: Step): Cost | undefined {
  return useCostStore(
    useShallow((costs) => costs[`${lane}.${step.id}`] ?? costOf(costs, lane, step.steps ?? [])),
  );
}

/** Milliseconds of all steps of a lane. */
export function useLaneCost(lane: Lane): number {
  const steps = everyStep(lane).map(({ step }) => step);
  return useCostStore((costs) => costOf(costs, lane.id, steps)?.ms ?? 0);
}

/** The total cost of a lane's steps; undefined if none was computed. */
function costOf(
  costs: Record<string, Cost>,
  lane: string,
  steps: readonly { id: string }[],
): Cost | undefined {
  const ms = steps.reduce((sum, one) => sum + (costs[`${lane}.${one.id}`]?.ms ?? 0), 0);
  return ms ? { ms, bytes: 0 } : undefined;
}
