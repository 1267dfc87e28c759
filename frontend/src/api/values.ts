import type { Control, Effect, Step, ValueKind } from "./client";

/** An ease in the form of the document. */
export type Ease =
  | "linear"
  | "hold"
  | "jump"
  | { bezier: [number, number, number, number] }
  | { into?: string | null; out?: string | null };

export interface Key {
  anchor?: "share" | "start" | "end";
  time: number;
  value: unknown;
  ease?: Ease;
}

export interface Keys {
  keys: Key[];
}

export interface Link {
  control: string;
  range?: [number, number] | null;
  ease?: Ease;
  table?: Record<string, unknown> | null;
}

export interface Formula {
  formula: string;
}

export function isFormula(value: unknown): value is Formula {
  return typeof value === "object" && value !== null && "formula" in value;
}

export function isKeys(value: unknown): value is Keys {
  return typeof value === "object" && value !== null && Array.isArray((value as Keys).keys);
}

export function isLink(value: unknown): value is Link {
  return typeof value === "object" && value !== null && "control" in value;
}

/** The setting of a step's value: its own, or the declaration's default. */
export function valueOf(step: Step, kind: ValueKind): unknown {
  if (kind.name === "mix") return step.mix;
  return step.values?.[kind.name] ?? kind.default;
}

/** The plain value that a control gives this value while the effect is built. */
export function shownValue(effect: Effect, value: unknown, kind: ValueKind): unknown {
  if (isKeys(value)) return value.keys[0]?.value ?? kind.default;
  if (isFormula(value)) return kind.default;
  if (!isLink(value)) return value;
  const control = effect.controls?.find((one) => one.slug === value.control);
  if (!control) return kind.default;
  if (value.table) return value.table[String(control.default)];
  if (value.range) return `${plain(value.range[0])} … ${plain(value.range[1])}`;
  return control.default;
}

/** A number as people write it. */
export function plain(value: unknown): string {
  if (typeof value === "number") {
    const size = Math.abs(value);
    const digits = size >= 100 ? 1 : size >= 10 ? 2 : 3;
    return String(Number(value.toFixed(digits))).replace("-", "−");
  }
  if (typeof value === "boolean") return value ? "on" : "off";
  if (Array.isArray(value)) return value.map(plain).join(", ");
  return String(value);
}

/** The defaults of a faceplate, overlaid with the settings. */
export function settingsOf(
  controls: readonly Control[],
  set: Record<string, unknown>,
): Record<string, unknown> {
  return Object.fromEntries(controls.map((one) => [one.slug, set[one.slug] ?? one.default]));
}

/** Whether a value has an effect at the present choices. A moving or driven choice counts as any.
 * */
export function matters(step: Step, kind: ValueKind, values: readonly ValueKind[]): boolean {
  return Object.entries(kind.when ?? {}).every(([name, choices]) => {
    const other = values.find((one) => one.name === name);
    if (!other) return choices.includes(name in (step.inputs ?? {}));
    const value = valueOf(step, other);
    if (isKeys(value) || isLink(value) || isFormula(value)) return true;
    if (choices.length) return choices.includes(value);
    return Boolean(value);
  });
}

/** A length in pixels in a frame of a number of lines, to show beside the value. */
export function pixelWords(value: number, unit: string, lines: number, aspect: number): string {
  const whole = unit === "%h" ? lines : unit === "%w" ? lines * aspect : 0;
  return whole ? `${plain((value / 100) * whole)} px at ${lines} lines` : "";
}
