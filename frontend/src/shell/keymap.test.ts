import { describe, expect, it } from "vitest";
import { ACTS, actOf, helpRows } from "./keymap";

describe("the keys", () => {
  it("have one meaning in each place", () => {
    for (const place of ["bench", "reel"] as const) {
      const keys = Object.values<{ on: { bench?: readonly string[]; reel?: readonly string[] } }>(
        ACTS,
      ).flatMap((act) => act.on[place] ?? []);
      expect(new Set(keys).size).toBe(keys.length);
    }
  });

  it("are found by place", () => {
    expect(actOf("bench", "Delete")).toBe("removeSteps");
    expect(actOf("reel", "Delete")).toBe("remove");
    expect(actOf("bench", "x")).toBeUndefined();
  });

  it("are all in the help, each once", () => {
    const rows = helpRows().flatMap((part) => part.rows.map((row) => row.does));
    for (const act of Object.values(ACTS)) expect(rows).toContain(act.does);
    expect(new Set(rows).size).toBe(rows.length);
  });
});
