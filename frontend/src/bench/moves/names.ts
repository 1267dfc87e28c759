import type { Curve } from "../../api/client";

export const nameOf = (curve: Curve) =>
  `${curve.lane}.${curve.step}.${curve.value}${curve.part ? `.${curve.part}` : ""}`;

/** The value that a curve belongs to; the two curves of a point share it. */
export const valueName = (curve: Curve) => `${curve.lane}.${curve.step}.${curve.value}`;

/** A picked key: "lane.step.value" and its number among the keys. */
export const pickOf = (curve: Curve, at: number) => `${valueName(curve)}#${at}`;
