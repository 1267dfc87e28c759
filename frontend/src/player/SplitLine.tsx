import { shareAcross, useDrag } from "../controls/useDrag";
import styles from "./SplitLine.module.css";

interface Props {
  label: string;
  /** The place of the line across the picture, 0 to 1. */
  at: number;
  onAt: (at: number) => void;
}

/** The line between two pictures, moved by dragging or with the arrow keys. */
export function SplitLine({ label, at, onAt }: Props) {
  const drag = useDrag({
    move: (event, line) => onAt(shareAcross(line.parentElement!, event)),
    atOnce: true,
  });
  return (
    <span
      className={styles.line}
      style={{ left: `${at * 100}%` }}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      onPointerDown={(event) => drag(event)}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
        if (!by) return;
        event.preventDefault();
        event.stopPropagation();
        onAt(Math.min(1, Math.max(0, at + by)));
      }}
    />
  );
}
