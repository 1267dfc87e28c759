/** Steps by their places, and the steps that read them. */

import type { DraftView, Effect, Lane, Step } from "../api/client";
import type { Place } from "./store";

export interface Held {
  lane: Lane;
  step: Step;
  /** The repeat that holds it. */
  inside: Step | null;
  /** Its index among its neighbours. */
  at: number;
}

export const nameOf = ({ lane, step }: Place) => `${lane}.${step}`;

export function placeOf(name: string): Place {
  const [lane = "", step = ""] = name.split(".");
  return { lane, step };
}

/** All steps of a lane from top to bottom, those of a repeat right after it. */
export function everyStep(lane: Lane): Held[] {
  return (lane.steps ?? []).flatMap((step, at) => [
    { lane, step, inside: null, at },
    ...(step.steps ?? []).map((held, inner) => ({ lane, step: held, inside: step, at: inner })),
  ]);
}

export function findStep(effect: Effect, place: Place | null): Held | undefined {
  const lane = effect.lanes.find((one) => one.id === place?.lane);
  return lane && everyStep(lane).find((one) => one.step.id === place?.step);
}

/** This step, and every step that reads it, directly or through others. */
export function readersOf(draft: DraftView, place: Place): Set<string> {
  const found = new Set([nameOf(place)]);
  for (let before = -1; before !== found.size;) {
    before = found.size;
    for (const [name, from] of Object.entries(draft.reads))
      if (from.some((one) => found.has(one))) found.add(name);
  }
  return found;
}

export interface Spot {
  lane: string;
  at: number;
  inside: string | null;
}

/** An index counted without the steps that are being moved. */
export function spotAfter(effect: Effect, moving: readonly Place[], spot: Spot): number {
  const names = new Set(moving.map(nameOf));
  const lane = effect.lanes.find((one) => one.id === spot.lane);
  const run = runOf(lane, spot.inside);
  return (
    spot.at - run.slice(0, spot.at).filter((one) => names.has(`${spot.lane}.${one.id}`)).length
  );
}

function runOf(lane: Lane | undefined, inside: string | null): readonly Step[] {
  if (!inside) return lane?.steps ?? [];
  return lane?.steps?.find((one) => one.id === inside)?.steps ?? [];
}
