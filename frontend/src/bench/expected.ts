import type { DraftView, One, Step } from "../api/client";
import type { Place } from "./store";

/** Steps with one of them changed, at any level. */
function withStep(steps: readonly Step[], id: string, change: (step: Step) => Step): Step[] {
  return steps.map((step) =>
    step.id === id
      ? change(step)
      : step.steps?.length
        ? { ...step, steps: withStep(step.steps, id, change) }
        : step,
  );
}

/** A draft with one of its steps changed. */
function inStep(draft: DraftView, place: Place, act: (step: Step) => Step): DraftView {
  const lanes = draft.effect.lanes.map((one) =>
    one.id === place.lane ? { ...one, steps: withStep(one.steps ?? [], place.step, act) } : one,
  );
  return { ...draft, effect: { ...draft.effect, lanes } };
}

/** The expected draft after a change; the same draft if only the server knows. */
export function expected(draft: DraftView, change: One): DraftView {
  const { effect } = draft;
  switch (change.do) {
    case "set-value": {
      const { value_name: name, value } = change;
      // Keys and formulas are checked first; a plain value is shown at once.
      const plain = typeof value !== "object" || Array.isArray(value);
      if (!plain || value === undefined || name === "mix") return draft;
      return inStep(draft, change, (one) => ({ ...one, values: { ...one.values, [name]: value } }));
    }
    case "name-step":
      return inStep(draft, change, (one) => ({ ...one, name: change.name ?? "" }));
    case "turn-steps":
      return change.steps.reduce(
        (before, place) => inStep(before, place, (one) => ({ ...one, on: change.on })),
        draft,
      );
    case "set-control": {
      if (change.default === undefined || change.default === null) return draft;
      const controls = (effect.controls ?? []).map((one) =>
        one.slug === change.slug ? { ...one, default: change.default } : one,
      );
      return { ...draft, effect: { ...effect, controls } };
    }
    case "set-words": {
      // At once, so that a second word is renamed on top of the first.
      const options = change.words.map((one) => one.word);
      const now = (old: unknown) => change.words.find((one) => one.of === old)?.word ?? options[0];
      const controls = (effect.controls ?? []).map((one) =>
        one.slug === change.slug ? { ...one, options, default: now(one.default) } : one,
      );
      return { ...draft, effect: { ...effect, controls } };
    }
    default:
      return draft;
  }
}
