/** The words on a step's card. */

import type { Effect, Step, StepKind } from "../../api/client";
import { isFormula, isKeys, isLink, plain, shownValue, valueOf } from "../../api/values";
import { everyStep } from "../graph";
import type { Cost } from "./useCosts";

/** The inputs to show; of neighbouring optional inputs without a source only the first. */
export function offered(
  inputs: StepKind["inputs"],
  given: NonNullable<Step["inputs"]>,
): StepKind["inputs"] {
  const empty = inputs.map((input) => input.optional && !given[input.name]);
  return inputs.filter((_, k) => !(empty[k] && empty[k - 1]));
}

/** An input's name for people. */
export const inputName = (name: string) => name.replaceAll("_", " ");

/** An input as a sentence: "Fray, luminance". */
export function inputWords(effect: Effect, step: Step, name: string, kind: StepKind): string {
  const input = step.inputs?.[name];
  if (!input) return "";
  const lane = effect.lanes.find((one) => one.id === input.lane);
  const source = input.step
    ? lane && everyStep(lane).find((one) => one.step.id === input.step)?.step
    : undefined;
  const takes = kind.inputs.find((one) => one.name === name)?.takes;
  const words = [lane?.name ?? input.lane];
  if (source) words.push(source.name || source.kind);
  if (takes === "matte") words.push(input.channel ?? "luminance");
  if (input.invert) words.push("inverted");
  if (input.offset)
    words.push(
      `${Math.abs(input.offset)} frame${Math.abs(input.offset) > 1 ? "s" : ""} ${input.offset < 0 ? "earlier" : "later"}`,
    );
  return words.join(", ");
}

/** The values that are not at their defaults, in one line. */
export function summary(effect: Effect, step: Step, kind: StepKind): string {
  const said = kind.values
    .filter((one) => step.values && one.name in step.values)
    .map((one) => {
      const value = valueOf(step, one);
      if (isKeys(value)) return `${one.label} moves`;
      if (isLink(value)) return `${one.label} exposed`;
      if (isFormula(value)) return `${one.label} by formula`;
      const shown = shownValue(effect, value, one);
      if (one.type === "toggle") return shown ? one.label : `no ${one.label}`;
      if (["asset", "font", "slot", "table"].includes(one.type)) return one.label;
      if (one.type === "stops") return `${(shown as unknown[]).length} stops`;
      return `${one.label} ${plain(shown)}`;
    });
  return said.join(" · ") || "nothing changed";
}

export function costWords(cost: Cost | undefined): string {
  if (!cost) return "Not computed yet";
  const size = cost.bytes ? `, and its result ${(cost.bytes / 1e6).toFixed(1)} MB` : "";
  return `${cost.ms.toFixed(2)} ms when it was last computed${size}`;
}
