import { describe, expect, it } from "vitest";
import type { Key } from "../../api/values";
import { anchored, keyAt, movedKeys, shareOf, sorted, timeAt } from "./keys";

const key = (time: number, value: unknown, anchor: Key["anchor"] = "share"): Key => ({
  anchor,
  time,
  value,
});
const [LENGTH, RATE] = [51, 25]; // two seconds from the first frame to the last

describe("keys", () => {
  it("lie where their anchor says", () => {
    expect(shareOf(key(0.25, 0), LENGTH, RATE)).toBe(0.25);
    expect(shareOf(key(0.5, 0, "start"), LENGTH, RATE)).toBe(0.25);
    expect(shareOf(key(0.5, 0, "end"), LENGTH, RATE)).toBe(0.75);
    for (const anchor of ["share", "start", "end"] as const)
      expect(shareOf(key(timeAt(anchor, 0.4, LENGTH, RATE), 0, anchor), LENGTH, RATE)).toBeCloseTo(
        0.4,
        5,
      );
  });
  it("stay in place when they are tied to another end", () => {
    const tied = anchored(key(0.25, 7), "end", LENGTH, RATE);
    expect(tied).toMatchObject({ anchor: "end", time: 1.5, value: 7 });
  });
  it("take a value where one is, else a new one splits the segment and keeps its ease", () => {
    const line = { keys: [{ ...key(0, 0), ease: "hold" as const }, key(1, 1)] };
    expect(keyAt(line, 5, 0.001, LENGTH, RATE).keys.map((one) => one.value)).toEqual([5, 1]);
    const more = keyAt(line, 5, 0.5, LENGTH, RATE).keys;
    expect(more.map((one) => one.time)).toEqual([0, 0.5, 1]);
    expect(more[1]!.ease).toBe("hold");
    expect(keyAt(null, 5, 0.5, LENGTH, RATE).keys).toHaveLength(1);
  });
  it("take the anchor of the key beside them", () => {
    const line = { keys: [key(0, 0, "start"), key(0.5, 1, "end")] };
    expect(keyAt(line, 5, 0.2, LENGTH, RATE).keys[1]).toMatchObject({ anchor: "start", time: 0.4 });
    expect(keyAt(line, 5, 0.7, LENGTH, RATE).keys[1]).toMatchObject({ anchor: "end", time: 0.6 });
  });
  it("move together, in order, and never out of the effect", () => {
    const line = { keys: [key(0, 0), key(0.5, 1), key(1, 2)] };
    const moved = movedKeys(line, new Set([0, 1]), 0.7, (value) => value, LENGTH, RATE).keys;
    expect(moved.map((one) => one.value)).toEqual([0, 1, 2]);
    expect(moved.map((one) => one.time)).toEqual([0.7, 1, 1]);
    expect(sorted([key(1, 0), key(0.5, 0, "start")], LENGTH, RATE)[0]!.anchor).toBe("start");
  });
});
