import { query, type DraftView } from "../api/client";
import type { Place } from "./store";

export const PREVIEW = { width: 960, height: 540 };
export const CARD = { width: 256, height: 144 };
export const SMALL = { width: 128, height: 72 };

/** The address of a frame of a draft, or of one of its steps; it never changes its content. */
export function frameUrl(
  draft: DraftView,
  frame: number,
  length: number,
  size: { width: number; height: number },
  stage?: Place | null,
): string {
  const place = stage ? `${stage.lane}.${stage.step}` : undefined;
  return `/api/effects/${draft.id}/${draft.revision}/frame.jpg?${query({
    frame,
    length,
    ...size,
    stage: place,
  })}`;
}
