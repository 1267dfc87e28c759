import { create } from "zustand";
import { persist } from "zustand/middleware";
import { shareAcross, useDrag } from "../controls/useDrag";
import styles from "./Divider.module.css";

/** The lanes' share of the width beside the monitor. */
const [USUAL, ALONE, LEAST, MOST] = [0.56, 0.44, 0.3, 0.72];

/** The height above and below the monitor's picture, in pixels. */
const BELOW = 490;

interface Share {
  /** The border's place as a person set it; undefined while it follows the open lanes. */
  lanes: number | null;
  put: (lanes: number | null) => void;
}

export const useDivide = create<Share>()(
  persist(
    (set) => ({
      lanes: null,
      put: (lanes) =>
        set({ lanes: lanes === null ? null : Math.min(MOST, Math.max(LEAST, lanes)) }),
    }),
    { name: "pale-static-divide", partialize: ({ lanes }) => ({ lanes }) },
  ),
);

/**
 * The share of the lanes: as a person set it; else less if only the output is open and a wide
 * picture can use the room.
 */
export function useShare(alone: boolean): number {
  const put = useDivide((state) => state.lanes);
  const picture = ((innerHeight - BELOW) * 16) / 9 + 20;
  const left = Math.min(USUAL, Math.max(ALONE, 1 - picture / innerWidth));
  return put ?? (alone ? left : USUAL);
}

/** The border between the lanes and the monitor: dragged, or moved by arrow keys. */
export function Divider({ lanes }: { lanes: number }) {
  const put = useDivide((state) => state.put);
  const drag = useDrag({ move: (event, bar) => put(shareAcross(bar.parentElement!, event)) });
  const percent = Math.round(lanes * 100);
  // A separator that can be moved is interactive (WAI-ARIA 1.2, separator); the rule does not know
  // that.
  /* eslint-disable jsx-a11y/no-noninteractive-element-interactions, jsx-a11y/no-noninteractive-tabindex */
  return (
    <div
      className={styles.bar}
      role="separator"
      aria-orientation="vertical"
      aria-label="Border between lanes and monitor"
      aria-valuenow={percent}
      aria-valuemin={LEAST * 100}
      aria-valuemax={MOST * 100}
      aria-valuetext={`Lanes have ${percent} percent of the width`}
      tabIndex={0}
      title="Drag it, or press the arrow keys. Double-click to reset it."
      onPointerDown={(event) => drag(event)}
      onDoubleClick={() => put(null)}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
        if (event.key === "Home") put(LEAST);
        else if (event.key === "End") put(MOST);
        else if (by) put(lanes + by);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    />
  );
}
