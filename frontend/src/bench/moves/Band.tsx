import type { Curve } from "../../api/client";
import { nameOf } from "./names";
import { BAND, bandWords, isColour, PAD, WIDE, x } from "./plot";
import styles from "./Band.module.css";

/** A colour, a choice or a text over time: its colours, or its words if there is room. */
export function Band({ curve, y }: { curve: Curve; y: number }) {
  return (
    <g className={styles.band} data-curve={nameOf(curve)}>
      {curve.runs.map((run, k) => {
        const [left, wide] = [x(run.start), (run.end - run.start) * (WIDE - 2 * PAD)];
        const words = bandWords(run.value);
        return (
          <g key={run.start}>
            <rect
              className={
                isColour(run.value)
                  ? styles.shade
                  : k % 2
                    ? `${styles.run} ${styles.other}`
                    : styles.run
              }
              x={left}
              y={y - BAND / 2}
              width={wide + (isColour(run.value) ? 0.3 : 0)}
              height={BAND}
              {...(isColour(run.value) ? { fill: run.value } : {})}
            >
              <title>{`${curve.label}: ${words}`}</title>
            </rect>
            {!isColour(run.value) && words.length * 5.6 + 14 < wide && (
              <text x={left + wide / 2} y={y + 3} textAnchor="middle">
                {words}
              </text>
            )}
          </g>
        );
      })}
      <rect
        className={styles.outline}
        x={PAD}
        y={y - BAND / 2}
        width={WIDE - 2 * PAD}
        height={BAND}
      />
    </g>
  );
}
