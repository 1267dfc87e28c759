import type { Ease } from "../api/values";

/** The words for the families by which a value leaves a key or arrives at the next. */
const WORDS = {
  sine: "gentle",
  quad: "soft, a little",
  cubic: "soft",
  quart: "very soft, a little",
  quint: "very soft",
  expo: "sudden",
  circ: "round",
  back: "past and back",
  elastic: "springs",
  bounce: "bounces",
} as const;
type Family = keyof typeof WORDS;

/** The ways to leave and to arrive that the square offers. */
export const WAYS = ["straight", "sine", "cubic", "quint", "back"] as const;
export type Way = (typeof WAYS)[number];
export type Bezier = [number, number, number, number];

/** Eases that are offered beside the square. */
export const BESIDE: readonly { words: string; ease: Ease }[] = [
  { words: "hold", ease: "hold" },
  { words: "jump", ease: "jump" },
  { words: "springs", ease: { into: null, out: "elastic" } },
  { words: "bounces", ease: { into: null, out: "bounce" } },
];

/** The word for a way. */
export const wordOf = (way: string) => (way === "straight" ? way : WORDS[way as Family]);

const familyOf = (way: Way) => (way === "straight" ? null : way);

/** The ease that leaves and arrives by these families. */
export function easeOf(leaves: Way, arrives: Way): Ease {
  if (leaves === "straight" && arrives === "straight") return "linear";
  return { into: familyOf(leaves), out: familyOf(arrives) };
}

/** The families by which an ease leaves and arrives; null for one that holds, jumps or is drawn. */
export function waysOf(ease: Ease): { leaves: string; arrives: string } | null {
  if (ease === "linear") return { leaves: "straight", arrives: "straight" };
  if (typeof ease === "string" || "bezier" in ease) return null;
  return { leaves: ease.into ?? "straight", arrives: ease.out ?? "straight" };
}

/** An ease in words. */
export function easeWords(ease: Ease | undefined): string {
  if (ease === undefined) return "straight";
  const ways = waysOf(ease);
  if (!ways) return typeof ease === "string" ? ease : "drawn";
  const { leaves, arrives } = ways;
  if (leaves === "straight" && arrives === "straight") return "straight";
  if (leaves === "straight" && (arrives === "elastic" || arrives === "bounce"))
    return wordOf(arrives);
  return `leaves ${wordOf(leaves)}, arrives ${wordOf(arrives)}`;
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
