import { describe, expect, it } from "vitest";
import { fitting, pictureFrames, snapped, tickEvery } from "./geometry";

describe("the strip", () => {
  it("draws an edge to the nearest of others within eight pixels", () => {
    expect(snapped(103, [100, 120], 2)).toBe(100);
    expect(snapped(105, [100, 120], 2)).toBe(105);
    expect(snapped(110, [104, 113], 1)).toBe(113);
    expect(snapped(10.4, [], 1)).toBe(10);
  });

  it("fits the whole edit, and never makes a frame wider than can be used", () => {
    expect(fitting(1080, 1000)).toBeCloseTo(1);
    expect(fitting(1080, 4)).toBe(24);
  });

  it("leaves the words of the ruler room, from one frame to minutes", () => {
    for (const frame of [0.01, 0.3, 1, 4, 24]) {
      const every = tickEvery(29.97, frame);
      expect(every * frame).toBeGreaterThan(90);
    }
    expect(tickEvery(25, 24)).toBe(5);
  });

  it("shows the first and the last frame of a shot, and those between that have room", () => {
    expect(pictureFrames(50, 100)).toEqual([24]);
    expect(pictureFrames(50, 230)).toEqual([0, 49]);
    expect(pictureFrames(101, 560)).toEqual([0, 25, 50, 75, 100]);
  });
});
