import type { Ease } from "../api/values";

/** Families by which a value may leave a key or arrive at the next; linear is none of them. */
export const WAYS = [
  "straight",
  "sine",
  "quad",
  "cubic",
  "quart",
  "quint",
  "expo",
  "circ",
  "back",
  "elastic",
  "bounce",
] as const;
export type Way = (typeof WAYS)[number];
export type Bezier = [number, number, number, number];

const familyOf = (way: Way) => (way === "straight" ? null : way);

/** The ease that leaves and arrives by these families. */
export function easeOf(leaves: Way, arrives: Way): Ease {
  if (leaves === "straight" && arrives === "straight") return "linear";
  return { into: familyOf(leaves), out: familyOf(arrives) };
}

/** The families by which an ease leaves and arrives; null for one that holds, jumps or is drawn. */
export function waysOf(ease: Ease): { leaves: Way; arrives: Way } | null {
  if (ease === "linear") return { leaves: "straight", arrives: "straight" };
  if (typeof ease === "string" || "bezier" in ease) return null;
  const way = (family: string | null | undefined) => (family ?? "straight") as Way;
  return { leaves: way(ease.into), arrives: way(ease.out) };
}

/** An ease in words. */
export function easeWords(ease: Ease | undefined): string {
  if (ease === undefined) return "straight";
  const ways = waysOf(ease);
  if (!ways) return typeof ease === "string" ? ease : "drawn";
  if (ways.leaves === "straight" && ways.arrives === "straight") return "straight";
  return `leaves ${ways.leaves}, arrives ${ways.arrives}`;
}

/** The point of a drawn curve at its parameter. */
function along(t: number, a: number, b: number): number {
  return 3 * (1 - t) * (1 - t) * t * a + 3 * (1 - t) * t * t * b + t * t * t;
}

/** The height of a drawn curve over a share of the time. */
export function heightAt([x1, y1, x2, y2]: Bezier, x: number): number {
  let [low, high] = [0, 1];
  for (let k = 0; k < 30; k += 1) {
    const middle = (low + high) / 2;
    if (along(middle, x1, x2) < x) low = middle;
    else high = middle;
  }
  return along((low + high) / 2, y1, y2);
}

/** The drawn curve nearest to samples that are evenly spaced from 0 to 1. */
export function drawnFrom(samples: readonly number[]): Bezier {
  const last = samples.length - 1;
  const far = (curve: Bezier) =>
    samples.reduce((sum, y, k) => sum + (heightAt(curve, k / last) - y) ** 2, 0);
  let best: Bezier = [0.33, 0.33, 0.67, 0.67];
  let least = far(best);
  for (let step = 0.32; step > 0.008;) {
    let better = false;
    for (let at = 0; at < 4; at += 1)
      for (const by of [-step, step]) {
        const next = [...best] as Bezier;
        next[at] = at % 2 ? next[at]! + by : Math.min(1, Math.max(0, next[at]! + by));
        const off = far(next);
        if (off < least) [best, least, better] = [next, off, true];
      }
    if (!better) step /= 2;
  }
  return best.map((one) => Number(one.toFixed(2))) as Bezier;
}
