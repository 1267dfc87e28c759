import type { Curve } from "../../api/client";
import { plain } from "../../api/values";

/** Units of the drawing: its width, and the room around it; and its least height in pixels. */
export const WIDE = 400;
export const LEAST = 110;
export const PAD = 12;
/** A dragged key snaps to another key or the playhead within this distance. */
export const SNAP = 5;

export const x = (at: number) => PAD + at * (WIDE - 2 * PAD);

/** The height of a band, and the distance from one band to the next. */
export const BAND = 18;
export const BANDS = 24;

/** The value of a band at a share of the effect. */
export const runAt = (curve: Curve, share: number): unknown =>
  (curve.runs.find((run) => share <= run.end) ?? curve.runs.at(-1))?.value;

/** A value of a band in words. */
export function bandWords(value: unknown): string {
  return Array.isArray(value) && Array.isArray(value[0]) ? `${value.length} stops` : plain(value);
}

/** The style of a curve among others: sixteen in a row differ, and never only by colour. */
export const strokeOf = (at: number) => ({
  "data-stroke": at % 4,
  "data-dash": (at + Math.floor(at / 4)) % 4,
});

export const isColour = (value: unknown): value is string =>
  typeof value === "string" && /^#[0-9a-f]{6,8}$/i.test(value);

export interface Range {
  low: number;
  high: number;
}

export function rangeOf(curve: Curve): Range {
  const part = curve.part === "y" ? 1 : 0;
  const numbers = [
    ...curve.samples,
    ...curve.keys.map((key) => numberOf(key.value, part)).filter((one) => Number.isFinite(one)),
  ];
  const low = Math.min(...numbers);
  return { low, high: Math.max(...numbers, low + 1e-6) };
}

export function numberOf(value: unknown, part: number): number {
  if (Array.isArray(value)) return Number(value[part]);
  return typeof value === "number" ? value : NaN;
}

/** The place of a value in a drawing of a height. */
export const yIn = (range: Range, value: number, tall: number) =>
  tall - PAD - ((value - range.low) / (range.high - range.low)) * (tall - 2 * PAD);

export type Anchor = "share" | "start" | "end";

/** The anchor of a key, from its words: "start + 0.12 s", "end − 0.2 s", "45 %". */
export function anchorOf(words: string): Anchor {
  return words.startsWith("start") ? "start" : words.startsWith("end") ? "end" : "share";
}

/** A key is a square; a key anchored to an end of the effect has a straight side towards it. */
export const MARKS: Record<Anchor, string> = {
  share: "M-5,-5H5V5H-5Z",
  start: "M-5,-5H1L6,0L1,5H-5Z",
  end: "M5,-5H-1L-6,0L-1,5H5Z",
};
