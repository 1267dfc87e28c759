import { describe, expect, it } from "vitest";
import { atLevel, sizeIn } from "./levels";

const FULL = { width: 960, height: 540 };

describe("the size of a picture", () => {
  it("has as many lines as its box, in few steps, and never more than the full one", () => {
    expect(sizeIn(304, FULL)).toEqual({ width: 544, height: 306 });
    expect(sizeIn(306.4, FULL)).toEqual({ width: 544, height: 306 });
    expect(sizeIn(373, FULL)).toEqual({ width: 672, height: 378 });
    expect(sizeIn(2, FULL)).toEqual({ width: 32, height: 18 });
    expect(sizeIn(900, FULL)).toBe(FULL);
    expect(sizeIn(300, { width: 540, height: 960 })).toEqual({ width: 172, height: 306 });
  });

  it("has even sides at each level", () => {
    expect(atLevel({ width: 672, height: 378 }, 1)).toEqual({ width: 336, height: 190 });
    expect(atLevel({ width: 2, height: 2 }, 2)).toEqual({ width: 2, height: 2 });
  });
});
