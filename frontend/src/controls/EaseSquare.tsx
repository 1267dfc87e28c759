import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import type { Ease } from "../api/values";
import { BESIDE, easeOf, easeWords, WAYS, waysOf, wordOf, type Way } from "./ease";
import { EaseCurve } from "./EaseCurve";
import { EaseDrawing } from "./EaseDrawing";
import styles from "./EaseField.module.css";

interface Props {
  label: string;
  value: Ease;
  onCommit: (ease: Ease) => void;
  onClose: () => void;
}

/** Small curves: rows by how the value leaves, columns by how it arrives; and one to draw. */
export function EaseSquare({ label, value, onCommit, onClose }: Props) {
  const ways = waysOf(value);
  const [focus, setFocus] = useState<[number, number]>(() => {
    const place = (way: string | undefined) => Math.max(0, WAYS.indexOf(way as Way));
    return ways ? [place(ways.leaves), place(ways.arrives)] : [1, 1];
  });
  const [seen, setSeen] = useState<Ease | null>(null);
  const grid = useRef<HTMLDivElement>(null);
  const [row, column] = focus;
  useEffect(() => {
    grid.current?.querySelector<HTMLElement>(`[data-cell="${row}-${column}"]`)?.focus();
  }, [row, column]);
  const moved = (event: React.KeyboardEvent) => {
    const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[
      event.key
    ];
    if (event.key === "Escape") onClose();
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const held = (at: number) => Math.min(WAYS.length - 1, Math.max(0, at));
    setFocus([held(row + by[0]!), held(column + by[1]!)]);
  };
  const shown = seen ?? value;
  return (
    <div className={styles.square} role="dialog" aria-label={`${label}: ease`}>
      <div>
        <div
          ref={grid}
          className={styles.grid}
          role="grid"
          tabIndex={-1}
          aria-label="Rows: how it leaves. Columns: how it arrives."
          onKeyDown={moved}
          onMouseLeave={() => setSeen(null)}
          onBlur={() => setSeen(null)}
        >
          <div role="row" className={styles.heads}>
            <span role="columnheader" className={styles.corner}>
              leaves ↓ arrives →
            </span>
            {WAYS.map((way) => (
              <span key={way} role="columnheader">
                {wordOf(way)}
              </span>
            ))}
          </div>
          {WAYS.map((leaves, y) => (
            <div key={leaves} role="row" className={styles.row}>
              <span role="rowheader">{wordOf(leaves)}</span>
              {WAYS.map((arrives, x) => (
                <Cell
                  key={arrives}
                  leaves={leaves}
                  arrives={arrives}
                  picked={ways?.leaves === leaves && ways.arrives === arrives}
                  inFocus={y === row && x === column}
                  at={`${y}-${x}`}
                  onSee={setSeen}
                  onPick={(ease) => {
                    setFocus([y, x]);
                    onCommit(ease);
                  }}
                />
              ))}
            </div>
          ))}
        </div>
        <p className="soft">{easeWords(shown)}</p>
      </div>
      <div className={styles.side}>
        <EaseDrawing shown={shown} onCommit={onCommit} />
        <div className={styles.plain}>
          {BESIDE.map(({ ease, words }) => (
            <Button
              key={words}
              size="small"
              aria-pressed={easeWords(value) === words}
              type={easeWords(value) === words ? "primary" : "default"}
              onClick={() => onCommit(ease)}
            >
              {words}
            </Button>
          ))}
        </div>
        <p className="soft">Hold stays until the next key. Jump goes there at once.</p>
      </div>
    </div>
  );
}

interface CellProps {
  leaves: Way;
  arrives: Way;
  picked: boolean;
  inFocus: boolean;
  at: string;
  onSee: (ease: Ease) => void;
  onPick: (ease: Ease) => void;
}

function Cell({ leaves, arrives, picked, inFocus, at, onSee, onPick }: CellProps) {
  const ease = easeOf(leaves, arrives);
  return (
    <button
      type="button"
      role="gridcell"
      className={`bare ${styles.cell}`}
      aria-selected={picked}
      aria-label={easeWords(ease)}
      data-cell={at}
      tabIndex={inFocus ? 0 : -1}
      onMouseEnter={() => onSee(ease)}
      onFocus={() => onSee(ease)}
      onClick={() => onPick(ease)}
    >
      <EaseCurve ease={ease} size={32} />
    </button>
  );
}
