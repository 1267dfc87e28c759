import { describe, expect, it } from "vitest";
import { readNumber, readTime } from "./number";

const AT = { now: 10, unit: "", height: 1000, width: 2000, rate: 25 };
const read = (typed: string, unit = "") => readNumber(typed, { ...AT, unit });

describe("what is typed into a number", () => {
  it("is arithmetic", () => {
    expect(read("1 + 2 * 3")).toBe(7);
    expect(read("(1 + 2) * 3")).toBe(9);
    expect(read("−4 / 2")).toBe(-2);
    expect(read("(1+2)/4")).toBe(0.75);
    expect(read("−1+4")).toBe(3);
    expect(read("1,5")).toBe(1.5);
    expect(read("2e-3")).toBe(0.002);
    expect(read("3 × 4")).toBe(12);
  });
  it("changes what is there where it starts with a sign", () => {
    expect(read("+5")).toBe(15);
    expect(read("*2")).toBe(20);
    expect(read("/4")).toBe(2.5);
    expect(read("-5")).toBe(-5); // a number below 0, and no subtraction
  });
  it("takes other units of the same kind", () => {
    expect(read("20 px", "%h")).toBe(2);
    expect(read("20 px", "%w")).toBe(1);
    expect(read("5 %h", "px")).toBe(50);
    expect(read("50 frames", "s")).toBe(2);
    expect(read("2 s", "frames")).toBe(50);
    expect(read("0.5 turn", "°")).toBe(180);
    expect(read("1.570796327 rad", "°")).toBeCloseTo(90, 6);
    expect(read("25 %")).toBe(0.25);
    expect(read("2 %", "%h")).toBe(2);
    expect(read("7 cells", "cells")).toBe(7);
  });
  it("is a time in frames, seconds, timecode or percent", () => {
    const at = (typed: string, anchor: "share" | "start" | "end", now = 0.5) =>
      readTime(typed, { anchor, now, span: 2, rate: 25 });
    for (const typed of ["25 frames", "25f", "1 s", "50 %", "50", "00:00:01:00", "1:00", "+0"])
      expect(at(typed, "share")).toBeCloseTo(0.5, 9);
    for (const typed of ["10 frames", "10f", "0.4", "0.4 s", "400 ms", "20 %", "0:10"])
      expect(at(typed, "start")).toBeCloseTo(0.4, 9);
    // Before the end; a percentage counts from the start, as everywhere.
    for (const typed of ["10f", "0.4 s", "80 %"]) expect(at(typed, "end")).toBeCloseTo(0.4, 9);
    expect(at("+5f", "start")).toBeCloseTo(0.7, 9);
    expect(at("+10", "share")).toBeCloseTo(0.6, 9);
    expect(at("soon", "start")).toBeNull();
    expect(read("1:00", "s")).toBe(1);
    expect(read("00:00:02:05", "frames")).toBe(55);
  });
  it("is refused where it is no number of the value's kind", () => {
    for (const typed of ["", "x", "1 +", "(1", "1)", "((((", "1/0", "3 px", "3 apples"])
      expect(read(typed)).toBeNull();
    expect(read("12 frames", "%h")).toBeNull();
  });
});
