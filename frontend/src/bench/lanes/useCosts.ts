import { create, type StoreApi } from "zustand";
import { useShallow } from "zustand/react/shallow";
import type { Lane, PictureCost, Step } from "../../api/client";
import { everyStep } from "../graph";

/** Milliseconds, and bytes of the result. */
export interface Cost {
  ms: number;
  bytes: number;
}

/** The cost of each step when it was last computed for the monitor, by "lane.step". */
const useCostStore = create<Record<string, Cost>>(() => ({}));
const costStore: StoreApi<Record<string, Cost>> = useCostStore;

/** Keeps the costs that came with a picture. A card whose step it does not need keeps its own. */
export function noteCosts(draft: number, { steps }: PictureCost): void {
  const told = Object.fromEntries(steps.map(([place, ms, bytes]) => [place, { ms, bytes }]));
  if (draft !== noted) costStore.setState({}, true);
  costStore.setState(told);
  noted = draft;
}

/** The draft whose costs are kept. */
let noted: number | null = null;

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
