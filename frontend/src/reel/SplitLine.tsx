import styles from "./Reel.module.css";

interface Props {
  /** Where the line lies, 0 to 1. */
  at: number;
  onAt: (at: number) => void;
  children: React.ReactNode;
}

/** A picture over another one, left of a line that is dragged or moved by keys. */
export function SplitLine({ at, onAt, children }: Props) {
  const move = (event: React.PointerEvent) => {
    if (event.type === "pointermove" && !(event.buttons & 1)) return;
    const line = event.currentTarget as HTMLElement;
    const box = line.parentElement!.getBoundingClientRect();
    if (event.type === "pointerdown") line.setPointerCapture(event.pointerId);
    onAt(Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)));
  };
  return (
    <>
      <span className={styles.splitOver} style={{ clipPath: `inset(0 ${(1 - at) * 100}% 0 0)` }}>
        {children}
      </span>
      <span
        className={styles.splitLine}
        style={{ left: `${at * 100}%` }}
        role="slider"
        tabIndex={0}
        aria-label="Line between before and after"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(at * 100)}
        onPointerDown={move}
        onPointerMove={move}
        onKeyDown={(event) => {
          const by = event.key === "ArrowLeft" ? -0.02 : event.key === "ArrowRight" ? 0.02 : 0;
          if (!by) return;
          event.preventDefault();
          event.stopPropagation();
          onAt(Math.min(1, Math.max(0, at + by)));
        }}
      />
    </>
  );
}
