import { useRef } from "react";
import type { DraftView, Step, ValueKind } from "../../api/client";
import type { Place } from "../store";
import { valueOf } from "../../api/values";
import { useSetting } from "../values/setting";
import type { ChangeDraft } from "../useDraft";

/** What all handles on the picture work on. */
export interface Held {
  draft: DraftView;
  frame: number;
  length: number;
  size: { width: number; height: number };
  change: ChangeDraft;
}

/** A value of a step that is taken hold of. */
export interface One extends Held {
  place: Place;
  step: Step;
  kind: ValueKind;
}

/** A value that is taken hold of: what it is, and what setting it means. */
export const useHeld = ({ step, ...asked }: One) =>
  useSetting({ ...asked, value: valueOf(step, asked.kind) });

/** Where a pointer is, in shares of the frame. */
function shareOf(svg: SVGSVGElement, event: { clientX: number; clientY: number }) {
  const box = svg.getBoundingClientRect();
  return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height] as const;
}

/** Follows a pointer from where it takes hold until it lets go. */
export function useGrip(onMove: (x: number, y: number, fine: boolean) => void, onEnd: () => void) {
  const gripped = useRef(false);
  return {
    onPointerDown: (event: React.PointerEvent<SVGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      gripped.current = true;
    },
    onPointerMove: (event: React.PointerEvent<SVGElement>) => {
      if (!gripped.current) return;
      event.stopPropagation();
      const [x, y] = shareOf(event.currentTarget.ownerSVGElement!, event);
      onMove(x, y, event.shiftKey);
    },
    onPointerUp: () => {
      if (gripped.current) onEnd();
      gripped.current = false;
    },
  };
}

export const rounded = (value: number, places = 4) => Number(value.toFixed(places));
