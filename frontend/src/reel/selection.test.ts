import { describe, expect, it } from "vitest";
import type { ReelView } from "../api/client";
import { edges } from "./strip/geometry";
import { between, cutFrame, cutsOf, endOf, joinOn, named } from "./selection";

/** An edit of a number of shots of ten frames, which counts how often a shot's name is read. */
function edit(count: number): { view: ReelView; reads: () => number } {
  let reads = 0;
  const shots = Array.from({ length: count }, (_, k) => ({
    get id() {
      reads += 1;
      return `s${k}`;
    },
    begins: 10 * k,
    length: 10,
    gap: 0,
    looks: [],
  }));
  const joins = [{ id: "j", left: "s3", right: "s4", first: 35, end: 45 }];
  const view = { shots, joins, items: [], marks: [], mark_in: null, mark_out: null };
  return { view: view as unknown as ReelView, reads: () => reads };
}

describe("an edit of many shots", () => {
  it("is looked through once, however many cuts are drawn", () => {
    const [few, many] = [500, 5000].map((count) => {
      const { view, reads } = edit(count);
      for (let scroll = 0; scroll < 20; scroll += 1)
        for (const cut of cutsOf(view)) {
          expect(cutFrame(view, cut)).toBeGreaterThanOrEqual(0);
          joinOn(view, cut);
        }
      edges(view, 0);
      return reads() / count;
    });
    expect(many).toBeLessThan(few! * 1.1);
  });

  it("knows its shots, cuts and joins", () => {
    const { view } = edit(6);
    expect(named(view, "s2")?.begins).toBe(20);
    expect(cutsOf(view).map((cut) => cutFrame(view, cut))).toEqual([0, 10, 20, 30, 40, 50, 60]);
    expect(joinOn(view, { left: "s3", right: "s4" })?.id).toBe("j");
    expect(joinOn(view, { left: "s4", right: "s5" })).toBeUndefined();
  });

  it("gives only what lies in a stretch", () => {
    const { view } = edit(5000);
    const seen = between(view.shots, (one) => [one.begins, endOf(one)], 101, 125);
    expect(seen.map((one) => one.begins)).toEqual([100, 110, 120]);
    expect(between(view.shots, (one) => [one.begins, endOf(one)], 60_000, 70_000)).toEqual([]);
  });
});
