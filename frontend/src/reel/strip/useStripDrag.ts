import { useState } from "react";
import { useDrag } from "../../controls/useDrag";

interface Dragging<T> {
  /** The new value after a move by a number of frames; null keeps the old one. */
  moved: (by: number, event: PointerEvent) => T | null;
  onMove?: (now: T) => void;
  onDrop: (now: T) => unknown;
  onStart?: () => void;
}

/** A drag along the strip, in frames. The new value is shown until the server has saved it. */
export function useStripDrag<T>(frame: number, { moved, onMove, onDrop, onStart }: Dragging<T>) {
  const [now, setNow] = useState<T | null>(null);
  const drag = useDrag<number, T | null>({
    move: (event, _, from) => {
      const next = moved((event.clientX - from) / frame, event);
      setNow(next);
      if (next !== null) onMove?.(next);
      return next;
    },
    end: (last) => {
      if (last === null) return setNow(null);
      void Promise.resolve(onDrop(last)).finally(() => setNow(null));
    },
  });
  const grab = (event: React.PointerEvent) => {
    if (event.button === 0) onStart?.();
    drag(event, event.clientX);
  };
  return [now, grab] as const;
}
