import type { Effect } from "../../api/client";
import { isLink, type Key, type Keys } from "../../api/values";

/** Whether an effect plays backwards while it is built. */
export function playsBackwards(effect: Effect): boolean {
  const way: unknown = effect.backwards;
  if (!isLink(way)) return way === true;
  return effect.controls?.find((one) => one.slug === way.control)?.default === true;
}

/** The share of an effect's movement at a frame; played backwards it runs from the end. */
export function shareAt(backwards: boolean, frame: number, length: number): number {
  const share = length > 1 ? frame / (length - 1) : 0;
  return backwards ? 1 - share : share;
}

/** The place of a key, as a share, in an effect of a number of frames at a rate. */
export function shareOf(key: Key, length: number, rate: number): number {
  const span = Math.max((length - 1) / rate, 1e-9);
  if (key.anchor === "start") return key.time / span;
  if (key.anchor === "end") return 1 - key.time / span;
  return key.time;
}

/** The time that puts a key at a share, by its anchor. */
export function timeAt(anchor: Key["anchor"], share: number, length: number, rate: number): number {
  const span = (length - 1) / rate;
  const round = (value: number) => Number(Math.max(0, value).toFixed(5));
  if (anchor === "start") return round(share * span);
  if (anchor === "end") return round((1 - share) * span);
  return round(share);
}

/** Keys with a value at a share: a key at that place takes it, else a new key is added in order. */
export function keyAt(
  keys: Keys | null,
  value: unknown,
  share: number,
  length: number,
  rate: number,
): Keys {
  const half = 0.5 / Math.max(1, length - 1);
  const old = keys?.keys ?? [];
  const here = old.findIndex((key) => Math.abs(shareOf(key, length, rate) - share) < half);
  if (here >= 0) return { keys: old.map((key, at) => (at === here ? { ...key, value } : key)) };
  const before = old.filter((key) => shareOf(key, length, rate) < share);
  const far = (key: Key) => Math.abs(shareOf(key, length, rate) - share);
  const near = [...old].sort((one, two) => far(one) - far(two))[0];
  // It keeps its distance to the key beside it when the length changes.
  const anchor = near?.anchor ?? "share";
  const made: Key = { anchor, time: timeAt(anchor, share, length, rate), value };
  // A new key splits a segment: both halves keep its ease.
  made.ease = before.at(-1)?.ease ?? "linear";
  return { keys: [...before, made, ...old.slice(before.length)] };
}

/** Keys in order of time in an effect of this length. */
export function sorted(keys: readonly Key[], length: number, rate: number): Key[] {
  return [...keys].sort((one, two) => shareOf(one, length, rate) - shareOf(two, length, rate));
}

/** Some of a value's keys moved by a share of the effect and by a value; a missing part means no
 * change. */
export function movedKeys(
  keys: Keys,
  which: ReadonlySet<number>,
  byShare: number,
  change: (value: unknown) => unknown,
  length: number,
  rate: number,
): Keys {
  return {
    keys: sorted(
      keys.keys.map((key, at) => {
        if (!which.has(at)) return key;
        const share = Math.min(1, Math.max(0, shareOf(key, length, rate) + byShare));
        return { ...key, time: timeAt(key.anchor, share, length, rate), value: change(key.value) };
      }),
      length,
      rate,
    ),
  };
}

/** A key with another anchor, at the same time. */
export function anchored(key: Key, anchor: Key["anchor"], length: number, rate: number): Key {
  return { ...key, anchor, time: timeAt(anchor, shareOf(key, length, rate), length, rate) };
}
