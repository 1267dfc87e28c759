import { describe, expect, it } from "vitest";
import type { DraftView, Effect } from "../api/client";
import { everyStep, findStep, nameOf, placeOf, readersOf, spotAfter } from "./graph";

const step = (id: string, steps: unknown[] = []) => ({ id, kind: "blur", steps });
const effect = {
  lanes: [
    { id: "side", steps: [step("noise"), step("levels")] },
    {
      id: "out",
      steps: [step("clip"), step("repeat", [step("turn"), step("mix")]), step("blend")],
    },
  ],
} as unknown as Effect;

describe("steps by their places", () => {
  it("are listed from top to bottom, held ones after what holds them", () => {
    const names = everyStep(effect.lanes[1]!).map((one) => one.step.id);
    expect(names).toEqual(["clip", "repeat", "turn", "mix", "blend"]);
    const held = findStep(effect, { lane: "out", step: "mix" });
    expect([held?.inside?.id, held?.at]).toEqual(["repeat", 1]);
    expect(findStep(effect, { lane: "out", step: "gone" })).toBeUndefined();
    expect(placeOf(nameOf({ lane: "a", step: "b" }))).toEqual({ lane: "a", step: "b" });
  });
  it("tell who reads them, directly or by others", () => {
    const reads = {
      "side.levels": ["side.noise"],
      "out.blend": ["out.clip", "side.levels"],
      "out.clip": [],
    };
    const readers = readersOf({ reads } as unknown as DraftView, { lane: "side", step: "noise" });
    expect([...readers].sort()).toEqual(["out.blend", "side.levels", "side.noise"]);
  });
  it("go to a place that is counted without those on their way", () => {
    const moving = [{ lane: "out", step: "clip" }];
    expect(spotAfter(effect, moving, { lane: "out", at: 2, inside: null })).toBe(1);
    expect(spotAfter(effect, moving, { lane: "side", at: 2, inside: null })).toBe(2);
    expect(spotAfter(effect, [], { lane: "out", at: 1, inside: "repeat" })).toBe(1);
  });
});
