import { useRef, useState } from "react";

interface Dragging<T> {
  /** The new value after a move by so many frames; null leaves the old one. */
  moved: (by: number, event: PointerEvent) => T | null;
  onMove?: (now: T) => void;
  onDrop: (now: T) => unknown;
  onStart?: () => void;
}

/** A grip that is dragged along the strip. Its new value is shown until the server has saved it. */
export function useDrag<T>(frame: number, { moved, onMove, onDrop, onStart }: Dragging<T>) {
  const [now, setNow] = useState<T | null>(null);
  const latest = useRef({ moved, onMove, onDrop });
  latest.current = { moved, onMove, onDrop };
  const grab = (event: React.PointerEvent) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    onStart?.();
    const from = event.clientX;
    const grip = event.currentTarget as HTMLElement;
    grip.setPointerCapture(event.pointerId);
    let next: T | null = null;
    grip.onpointermove = (move) => {
      next = latest.current.moved((move.clientX - from) / frame, move);
      setNow(next);
      if (next !== null) latest.current.onMove?.(next);
    };
    grip.onpointerup = grip.onpointercancel = () => {
      grip.onpointermove = grip.onpointerup = grip.onpointercancel = null;
      if (next === null) return setNow(null);
      void Promise.resolve(latest.current.onDrop(next)).finally(() => setNow(null));
    };
  };
  return [now, grab] as const;
}
