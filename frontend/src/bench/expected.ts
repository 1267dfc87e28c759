import type { DraftView, One, Step } from "../api/client";

/** Steps with one of them changed, wherever it is held. */
function withStep(steps: readonly Step[], id: string, change: (step: Step) => Step): Step[] {
  return steps.map((step) =>
    step.id === id
      ? change(step)
      : step.steps?.length
        ? { ...step, steps: withStep(step.steps, id, change) }
        : step,
  );
}

/** A draft as a change will most likely leave it; the same where only the server can tell. */
export function expected(draft: DraftView, change: One): DraftView {
  const { effect } = draft;
  const inStep = (lane: string, id: string, act: (step: Step) => Step): DraftView => {
    const lanes = effect.lanes.map((one) =>
      one.id === lane ? { ...one, steps: withStep(one.steps ?? [], id, act) } : one,
    );
    return { ...draft, effect: { ...effect, lanes } };
  };
  switch (change.do) {
    case "set-value": {
      const { lane, step, value_name: name, value } = change;
      // Keys and formulas are checked first; a plain value is shown at once.
      const plain = typeof value !== "object" || Array.isArray(value);
      if (!plain || value === undefined || name === "mix") return draft;
      return inStep(lane, step, (one) => ({ ...one, values: { ...one.values, [name]: value } }));
    }
    case "set-step": {
      const { lane, step, name, on } = change;
      return inStep(lane, step, (one) => ({
        ...one,
        ...(typeof name === "string" ? { name } : {}),
        ...(typeof on === "boolean" ? { on } : {}),
      }));
    }
    case "set-control": {
      if (change.default === undefined || change.default === null) return draft;
      const controls = (effect.controls ?? []).map((one) =>
        one.slug === change.slug ? { ...one, default: change.default } : one,
      );
      return { ...draft, effect: { ...effect, controls } };
    }
    default:
      return draft;
  }
}
