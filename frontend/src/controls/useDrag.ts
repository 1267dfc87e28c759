import { useRef } from "react";

/** The functions of a drag. `last` is the result of the newest movement; null before the first. */
interface Drag<S, T> {
  /** Called for every movement. `held` is the pressed element; `start` was given at the press. */
  move: (event: PointerEvent, held: Element, start: S) => T;
  /** Called when the pointer is released. */
  end?: (last: T | null, start: S) => void;
  /** Whether the press counts as a movement: the dragged thing jumps to the pointer. */
  atOnce?: boolean;
  /** Whether the middle button drags too. */
  middle?: boolean;
}

/**
 * The one way of dragging. It follows every movement from the press to the release, also outside
 * the element, and always calls the functions of the newest rendering.
 */
export function useDrag<S = void, T = unknown>(drag: Drag<S, T>) {
  const latest = useRef(drag);
  latest.current = drag;
  return (event: React.PointerEvent, start: S) => {
    if (event.button > (drag.middle ? 1 : 0)) return;
    event.stopPropagation();
    const held = event.currentTarget;
    held.setPointerCapture(event.pointerId);
    const released = new AbortController();
    const until = { signal: released.signal };
    let last: T | null = null;
    const moved = (at: PointerEvent) => {
      last = latest.current.move(at, held, start);
    };
    const letGo = () => {
      released.abort();
      latest.current.end?.(last, start);
    };
    held.addEventListener("pointermove", (at) => moved(at as PointerEvent), until);
    held.addEventListener("pointerup", letGo, until);
    held.addEventListener("pointercancel", letGo, until);
    if (drag.atOnce) moved(event.nativeEvent);
  };
}

/** The place of a pointer across an element, 0 to 1. */
export function shareAcross(held: Element, event: { clientX: number }): number {
  const box = held.getBoundingClientRect();
  return Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
}
