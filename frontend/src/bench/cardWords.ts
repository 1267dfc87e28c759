/** What a card says of its step, in words. */

import type { Effect, Step, StepKind } from "../api/client";
import { isFormula, isKeys, isLink, plain, shownValue, valueOf } from "../api/values";
import { everyStep } from "./graph";
import type { Cost } from "./useCosts";

/** The inputs to show: of optional ones in a row without a source, the first alone. */
export function offered(
  taps: StepKind["taps"],
  given: NonNullable<Step["taps"]>,
): StepKind["taps"] {
  const empty = taps.map((tap) => tap.optional && !given[tap.name]);
  return taps.filter((_, k) => !(empty[k] && empty[k - 1]));
}

/** An input's name as it is read. */
export const inputName = (name: string) => name.replaceAll("_", " ");

/** A tap as a sentence: "Fray, luminance". */
export function tapWords(effect: Effect, step: Step, name: string, kind: StepKind): string {
  const tap = step.taps?.[name];
  if (!tap) return "";
  const lane = effect.lanes.find((one) => one.id === tap.lane);
  const source = tap.step
    ? lane && everyStep(lane).find((one) => one.step.id === tap.step)?.step
    : undefined;
  const takes = kind.taps.find((one) => one.name === name)?.takes;
  const words = [lane?.name ?? tap.lane];
  if (source) words.push(source.name || source.kind);
  if (takes === "matte") words.push(tap.channel ?? "luminance");
  if (tap.invert) words.push("inverted");
  if (tap.offset)
    words.push(
      `${Math.abs(tap.offset)} frame${Math.abs(tap.offset) > 1 ? "s" : ""} ${tap.offset < 0 ? "earlier" : "later"}`,
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
      if (["asset", "font", "slot"].includes(one.type)) return one.label;
      if (one.type === "stops") return `${(shown as unknown[]).length} stops`;
      return `${one.label} ${plain(shown)}`;
    });
  return said.join(" · ") || "as it comes";
}

export function costWords(cost: Cost | undefined): string {
  if (!cost) return "Not computed yet";
  const size = cost.bytes ? `, and its result ${(cost.bytes / 1e6).toFixed(1)} MB` : "";
  return `${cost.ms.toFixed(2)} ms when it was last computed${size}`;
}
