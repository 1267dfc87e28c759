import { describe, expect, it } from "vitest";
import type { DraftView } from "../api/client";
import { expected } from "./expected";
import { findStep } from "./graph";

const draft = {
  effect: {
    lanes: [
      {
        id: "out",
        steps: [
          { id: "blur", kind: "blur", on: true, values: { size: 3 } },
          { id: "repeat", kind: "repeat", steps: [{ id: "inner", kind: "blur", values: {} }] },
        ],
      },
    ],
    controls: [{ slug: "size", default: 3 }],
  },
} as unknown as DraftView;

const step = (now: DraftView, name: string) =>
  findStep(now.effect, { lane: "out", step: name })?.step;

describe("what a change will most likely do", () => {
  it("sets a plain value, also of a step that a repeat holds", () => {
    const place = { lane: "out", value_name: "size" };
    const one = expected(draft, { do: "set-value", ...place, step: "blur", value: 7 });
    expect(step(one, "blur")?.values).toEqual({ size: 7 });
    const two = expected(draft, { do: "set-value", ...place, step: "inner", value: [1, 2] });
    expect(step(two, "inner")?.values).toEqual({ size: [1, 2] });
    expect(step(draft, "inner")?.values).toEqual({});
  });

  it("leaves to the server what it has to check first", () => {
    const place = { lane: "out", step: "blur", value_name: "size" };
    for (const value of [{ formula: "1 +" }, { keys: [] }, null])
      expect(expected(draft, { do: "set-value", ...place, value })).toBe(draft);
    expect(expected(draft, { do: "add-lane", name: "Lane" })).toBe(draft);
  });

  it("switches, names and exposes", () => {
    const off = expected(draft, {
      do: "turn-steps",
      steps: [{ lane: "out", step: "blur" }],
      on: false,
    });
    expect(step(off, "blur")?.on).toBe(false);
    const named = expected(draft, { do: "name-step", lane: "out", step: "blur", name: "Veil" });
    expect(step(named, "blur")?.name).toBe("Veil");
    const set = expected(draft, { do: "set-control", slug: "size", default: 5 });
    expect(set.effect.controls?.[0]?.default).toBe(5);
    const words = [{ word: "Storm" }, { word: "Calm", of: 5 as unknown as string }];
    const worded = expected(set, { do: "set-words", slug: "size", words });
    expect(worded.effect.controls?.[0]).toMatchObject({
      options: ["Storm", "Calm"],
      default: "Calm",
    });
  });
});
