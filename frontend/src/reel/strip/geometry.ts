/** Geometry of the strip: frames to pixels, snapping, and the marks of the ruler. */

import type { ReelView } from "../../api/client";
import { cutFrame, cutsOf, endOf, placedOf } from "../selection";

export const LEFT = 20;
/** Pixels within which an edge snaps to another. */
const NEAR = 8;
export const WIDEST = 24;

export interface Scale {
  /** Pixels of a frame. */
  frame: number;
  x: (at: number) => number;
}

export const scaleOf = (frame: number): Scale => ({ frame, x: (at) => LEFT + at * frame });

/** Pixels of a frame at which the whole edit fits, with a little room after its end. */
export const fitting = (wide: number, length: number) =>
  Math.min(WIDEST, (wide - LEFT * 2) / (Math.max(length, 1) * 1.04));

/** Frames that edges snap to: cuts, ends, joins, marks, the playhead. */
export function edges(view: ReelView, playhead: number, without: readonly string[] = []): number[] {
  const found = [0, playhead, ...view.marks.map((mark) => mark.frame)];
  for (const at of [view.mark_in, view.mark_out]) if (at !== null) found.push(at);
  for (const one of placedOf(view))
    if (!without.includes(one.id)) found.push(one.begins, endOf(one));
  for (const join of view.joins) found.push(join.first, join.end);
  for (const cut of cutsOf(view)) {
    if (![cut.left, cut.right].some((name) => name && without.includes(name)))
      found.push(cutFrame(view, cut));
  }
  return found;
}

/** The nearest of some frames if it is near enough on the screen; else the frame itself. */
export function snapped(at: number, to: readonly number[], frame: number): number {
  let best = at;
  let least = NEAR / frame;
  for (const edge of to) {
    const far = Math.abs(edge - at);
    if (far <= least) {
      best = edge;
      least = far;
    }
  }
  return Math.round(best);
}

/** Frames between two marks of the ruler, so that their labels have room. */
export function tickEvery(rate: number, frame: number): number {
  const base = Math.ceil(rate - 1e-6);
  const steps = [1, 2, 5, 10, ...[1, 2, 5, 10, 30, 60, 300].map((seconds) => seconds * base)];
  return steps.find((one) => one * frame > 90) ?? 600 * base;
}

/** The frames of a shot's pictures: as many as fit. */
export function pictureFrames(length: number, wide: number): number[] {
  const count = Math.max(1, Math.min(24, Math.floor(wide / 110)));
  if (count === 1) return [Math.floor((length - 1) / 2)];
  return Array.from({ length: count }, (_, k) => Math.round((k / (count - 1)) * (length - 1)));
}
