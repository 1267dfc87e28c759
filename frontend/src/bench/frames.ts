import { query, type Change, type DraftView } from "../api/client";
import { linesIn } from "../player/levels";
import { previewOf, useBench, type Place, type Shape } from "./store";

export interface Size {
  width: number;
  height: number;
}

/** The size that the monitor asks for. */
export function usePreview(): Size {
  const shape = useBench((state) => state.shape);
  const lines = useBench((state) => state.lines);
  return previewOf(shape, lines);
}

/** CSS pixels of the shorter side of pictures on cards, in rows, and in the filmstrip. */
const CARD = 115;
const ROW = 64;
const CELL = 34;

/** The sizes of small pictures: as many pixels as the screen shows. */
export const cardOf = (shape: Shape) => previewOf(shape, linesIn(CARD));
export const smallOf = (shape: Shape) => previewOf(shape, linesIn(ROW));
export const cellOf = (shape: Shape) => previewOf(shape, linesIn(CELL));

export interface Looking {
  /** The step whose result is shown; the output by default. */
  step?: Place | null;
  /** The pass, if that step is in a repeat. */
  pass?: number;
  /** A step that is left out. */
  without?: Place | null;
  /** An earlier revision. */
  revision?: number;
  /** Whether the cost of each step comes with it. */
  costs?: boolean;
  /** For the screen, or exact. */
  form?: "jpg" | "png";
}

const named = (place?: Place | null) => (place ? `${place.lane}.${place.step}` : undefined);

/** The part of an address that names a step's result. */
export function stepOf(place?: Place | null, pass?: number): string | undefined {
  const name = named(place);
  return name && pass !== undefined ? `${name}@${pass}` : name;
}

/** The revision since which a step, or the output, gives its present pictures. */
export function sinceOf(draft: DraftView, step?: Place | null): number {
  const lane = draft.effect.lanes.at(-1);
  const out = lane?.steps?.at(-1);
  const place = step ?? (lane && out && { lane: lane.id, step: out.id });
  return (place && draft.since[`${place.lane}.${place.step}`]) ?? draft.revision;
}

/** The address of frames from first to last, side by side. */
export function stripUrl(draft: DraftView, length: number, places: number, size: Size): string {
  return `/api/effects/${draft.id}/${sinceOf(draft)}/strip.jpg?${query({ length, places, ...size })}`;
}

/**
 * The address of a frame of a draft, or of one of its steps. Its content never changes, and the
 * address stays the same through changes that do not affect the picture.
 */
export function frameUrl(
  draft: DraftView,
  frame: number,
  length: number,
  size: Size,
  { step, pass, without, revision, costs, form = "jpg" }: Looking = {},
): string {
  const from = revision ?? (without ? draft.revision : sinceOf(draft, step));
  return `/api/effects/${draft.id}/${from}/frame.${form}?${query({
    frame,
    length,
    ...size,
    step: stepOf(step, pass),
    without: named(without),
    costs: costs ? "true" : undefined,
  })}`;
}

/**
 * The address of a frame with a change on trial; on request, of the step that the change adds.
 */
export function triedUrl(
  draft: DraftView,
  change: Change,
  frame: number,
  length: number,
  size: Size,
  step?: "added",
): string {
  const tried = { change: JSON.stringify(change), frame, length, ...size, step };
  return `/api/effects/${draft.id}/${draft.revision}/try-on.jpg?${query(tried)}`;
}
