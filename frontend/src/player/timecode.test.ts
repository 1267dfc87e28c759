import { describe, expect, it } from "vitest";
import labels from "../../../tests/timecodes.json";
import { framesOf, rateOf, RATES, shownRate, timecode } from "./timecode";

describe("time code", () => {
  it("is what OpenTimelineIO writes, with dropped labels where SMPTE ST 12-1 drops them", () => {
    for (const { rate, frame, text } of labels) expect(timecode(frame, rateOf(rate))).toBe(text);
  });
  it("is read back as the frame it came from", () => {
    for (const { rate, frame, text } of labels) expect(framesOf(text, rateOf(rate))).toBe(frame);
  });
  it("is read from the right, and nonsense is none", () => {
    expect(framesOf("2:10", 25)).toBe(60);
    expect(framesOf("1:00:00", 25)).toBe(1500);
    for (const text of ["", "a", "1:2:3:4:5", "-1", "1.5:2:"])
      expect(framesOf(text, 25)).toBeNull();
    expect(framesOf("x:1", 25)).toBeNull();
  });
  it("knows every rate by the number people write", () => {
    for (const { value, label } of RATES) expect(shownRate(rateOf(value))).toBe(label);
  });
});
