/** Who reads whom in an effect, and what a move would do to that. */

import type { Effect, Lane, Step, StepKind } from "../api/client";
import type { Place } from "./store";

export interface Held {
  lane: Lane;
  step: Step;
  /** The repeat that holds it. */
  inside: Step | null;
  /** Its place among the steps beside it. */
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

type Lanes = readonly { id: string; steps?: readonly Step[] }[];

/** By "lane.step": what each step takes in directly. */
export function reads(lanes: Lanes): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const lane of lanes) {
    let above: string | null = null;
    for (const outer of lane.steps ?? []) {
      let inside = above;
      for (const step of [...(outer.steps ?? []), outer]) {
        const taken = inside ? [inside] : [];
        for (const tap of Object.values(step.taps ?? {})) {
          const source = lanes.find((one) => one.id === tap.lane);
          const name = tap.step ?? source?.steps?.at(-1)?.id;
          // The repeat that holds a step is, to that step, what comes into the pass.
          if (name && !(step !== outer && tap.lane === lane.id && name === outer.id))
            taken.push(`${tap.lane}.${name}`);
        }
        found.set(`${lane.id}.${step.id}`, taken);
        inside = `${lane.id}.${step.id}`;
      }
      above = `${lane.id}.${outer.id}`;
    }
  }
  return found;
}

/** Every step that takes in this one, directly or by others, and itself. */
export function readersOf(effect: Effect, place: Place): Set<string> {
  const taken = reads(effect.lanes);
  const found = new Set([nameOf(place)]);
  for (let before = -1; before !== found.size;) {
    before = found.size;
    for (const [name, from] of taken) if (from.some((one) => found.has(one))) found.add(name);
  }
  return found;
}

/** Whether some step takes in its own result. */
export function circular(lanes: Lanes): boolean {
  const taken = reads(lanes);
  const state = new Map<string, "open" | "done">();
  const walk = (name: string): boolean => {
    if (state.get(name) === "open") return true;
    if (state.has(name)) return false;
    state.set(name, "open");
    const found = (taken.get(name) ?? []).some(walk);
    state.set(name, "done");
    return found;
  };
  return [...taken.keys()].some(walk);
}

export interface Spot {
  lane: string;
  at: number;
  inside: string | null;
}

/** A place counted without the steps that are on their way to it. */
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

/** Why steps cannot go to a spot, as a sentence; null where they can. */
export function refusal(
  effect: Effect,
  moving: readonly Place[],
  spot: Spot,
  kindOf: (kind: string) => StepKind | undefined,
): string | null {
  const names = new Set(moving.map(nameOf));
  const steps = moving.flatMap((place) => findStep(effect, place)?.step ?? []);
  const target = effect.lanes.find((one) => one.id === spot.lane);
  if (!target || !steps.length) return "There is nothing to move.";
  const starts = (step: Step) => kindOf(step.kind)?.main === null;
  const title = (step: Step) => step.name || kindOf(step.kind)?.label || step.kind;
  if (spot.inside) {
    if (names.has(`${spot.lane}.${spot.inside}`)) return "A repeat cannot go into itself.";
    const wrong = steps.find((step) => starts(step) || step.kind === "repeat");
    if (wrong) return `${title(wrong)} cannot go into a repeat.`;
  }
  const stays = (lane: string, step: Step) => !names.has(`${lane}.${step.id}`);
  // What is moved keeps being read where it goes.
  const ids = new Set(everyStep(target).map((one) => one.step.id));
  const places = new Map<string, { lane: string; step: string }>();
  const fresh = steps.map((step, k) => {
    const from = moving[k]!;
    const id = from.lane !== spot.lane && ids.has(step.id) ? `${step.id}-moved` : step.id;
    places.set(nameOf(from), { lane: spot.lane, step: id });
    for (const held of step.steps ?? [])
      places.set(`${from.lane}.${held.id}`, { lane: spot.lane, step: held.id });
    return { ...step, id };
  });
  const retapped = (step: Step): Step => ({
    ...step,
    steps: (step.steps ?? []).map(retapped),
    taps: Object.fromEntries(
      Object.entries(step.taps ?? {}).map(([name, tap]) => [
        name,
        { ...tap, ...places.get(`${tap.lane}.${tap.step}`) },
      ]),
    ),
  });
  const at = spotAfter(effect, moving, spot);
  const lanes = effect.lanes.map((lane) => {
    let run = (lane.steps ?? [])
      .filter((step) => stays(lane.id, step))
      .map((step) => ({
        ...step,
        steps: (step.steps ?? []).filter((held) => stays(lane.id, held)),
      }));
    if (lane.id === spot.lane && !spot.inside) run.splice(at, 0, ...fresh.map(full));
    if (lane.id === spot.lane && spot.inside)
      run = run.map((step) =>
        step.id === spot.inside
          ? { ...step, steps: [...step.steps.slice(0, at), ...fresh, ...step.steps.slice(at)] }
          : step,
      );
    return { ...lane, steps: run.map(retapped) };
  });
  for (const lane of lanes) {
    const first = lane.steps[0];
    if (first && !starts(first) && lane.id === spot.lane)
      return `${title(first)} needs a picture to work on; it cannot come first in ${lane.name}.`;
    const late = lane.steps.slice(1).find(starts);
    if (late) return `${title(late)} starts a lane; it cannot follow another step.`;
  }
  if (circular(lanes)) return "It would take in its own result: a circle.";
  return null;
}

function full(step: Step): Step & { steps: Step[] } {
  return { ...step, steps: step.steps ?? [] };
}
