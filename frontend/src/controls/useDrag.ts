import { useRef } from "react";

/** What a drag does. `last` is what the newest movement gave; null before the first. */
interface Drag<S, T> {
  /** For every movement. `held` is the element that the pointer took; `start`, what the press gave. */
  move: (event: PointerEvent, held: Element, start: S) => T;
  /** When the pointer lets go. */
  end?: (last: T | null, start: S) => void;
  /** Whether the press is a movement too: what is dragged jumps to the pointer. */
  atOnce?: boolean;
  /** Whether the middle button drags too. */
  middle?: boolean;
}

/**
 * The one way of dragging. From the press until the pointer lets go, every movement is followed, also
 * beyond the element. The functions called are always those of the newest drawing.
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

/** Where a pointer is across an element, 0 to 1. */
export function shareAcross(held: Element, event: { clientX: number }): number {
  const box = held.getBoundingClientRect();
  return Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
}
