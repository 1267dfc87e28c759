import { describe, expect, it } from "vitest";
import { drawnFrom, easeOf, easeWords, heightAt, WAYS, waysOf } from "./ease";

describe("eases", () => {
  it("are a way to leave and a way to arrive, and are read back", () => {
    for (const leaves of WAYS)
      for (const arrives of WAYS)
        expect(waysOf(easeOf(leaves, arrives))).toEqual({ leaves, arrives });
    expect(waysOf("hold")).toBeNull();
    expect(easeWords("linear")).toBe("straight");
    expect(easeWords({ into: "cubic", out: "quint" })).toBe("leaves soft, arrives very soft");
    expect(easeWords({ out: "elastic" })).toBe("springs");
    // What earlier versions offered keeps a name of its own.
    expect(easeWords({ into: "circ", out: null })).toBe("leaves round, arrives straight");
  });
  it("that are drawn pass through their ends, and through the curve of CSS Easing level 1", () => {
    // cubic-bezier(0.42, 0, 0.58, 1) is "ease-in-out": 0.5 at 0.5 by symmetry.
    expect(heightAt([0.42, 0, 0.58, 1], 0.5)).toBeCloseTo(0.5, 4);
    expect(heightAt([0.1, 0.2, 0.3, 1], 0)).toBeCloseTo(0, 4);
    expect(heightAt([0.1, 0.2, 0.3, 1], 1)).toBeCloseTo(1, 4);
    // A straight line stays straight.
    const line = Array.from({ length: 41 }, (_, k) => k / 40);
    const drawn = drawnFrom(line);
    for (const x of [0.2, 0.5, 0.9]) expect(heightAt(drawn, x)).toBeCloseTo(x, 2);
  });
});
