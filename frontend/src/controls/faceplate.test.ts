import { describe, expect, it } from "vitest";
import type { Control } from "../api/client";
import { adviceOn, groupsOf, isShown } from "./faceplate";

const control = (slug: string, more: Partial<Control> = {}): Control => ({
  slug,
  label: slug,
  type: "number",
  default: 0,
  ...more,
});

describe("a faceplate", () => {
  it("shows a control only while the others have the settings that it names", () => {
    const when = { weather: ["Storm", "Gale"], on: [true] };
    const one = control("wind", { when });
    expect(isShown(one, { weather: "Gale", on: true })).toBe(true);
    expect(isShown(one, { weather: "Calm", on: true })).toBe(false);
    expect(isShown(one, { weather: "Gale", on: false })).toBe(false);
    expect(isShown(control("base", { hidden: true }), {})).toBe(false);
  });

  it("keeps groups together, and those of no group first", () => {
    const controls = [
      control("a", { group: "Edge" }),
      control("b"),
      control("c", { group: "Time" }),
      control("d", { group: "Edge" }),
    ];
    expect(groupsOf(controls).map((one) => [one.name, one.controls.map((c) => c.slug)])).toEqual([
      ["", ["b"]],
      ["Edge", ["a", "d"]],
      ["Time", ["c"]],
    ]);
  });

  it("says why a setting is beyond the edge", () => {
    const one = control("wear", { edge: { above: 5, below: -1, reason: "The outline shows." } });
    expect(adviceOn(one, 5)).toBe(null);
    expect(adviceOn(one, 5.1)).toBe("The outline shows.");
    expect(adviceOn(one, -2)).toBe("The outline shows.");
    expect(adviceOn(control("plain"), 100)).toBe(null);
  });
});
