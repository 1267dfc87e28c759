import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { asked } from "../api/asked";
import type { Ease } from "../api/values";
import { useDrag } from "./useDrag";
import { drawnFrom, type Bezier } from "./ease";
import { EaseCurve } from "./EaseCurve";
import styles from "./EaseField.module.css";
import { NumberField } from "./NumberField";

const SIDE = 132;
/** The visible range of heights: a drawn curve may pass both of its ends. */
const [LOW, HIGH] = [-0.6, 1.6];
const NAMES = [
  "x of the first handle",
  "y of the first handle",
  "x of the second handle",
  "y of the second handle",
];

/** A curve with two handles to drag, and its four numbers. Dragging one makes the ease a drawn one. */
export function EaseDrawing(props: { shown: Ease; onCommit: (ease: Ease) => void }) {
  const { shown, onCommit } = props;
  const shapes = useQuery(asked.eases());
  const [drag, setDrag] = useState<Bezier | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const near = useNearest(shown, shapes.data?.eases);
  const curve = drag ?? near;
  const drawn = drag !== null || (typeof shown === "object" && "bezier" in shown);
  const put = (at: 0 | 2, x: number, y: number): Bezier => {
    const next = [...curve] as Bezier;
    next[at] = Number(Math.min(1, Math.max(0, x)).toFixed(3));
    next[at + 1] = Number(Math.min(HIGH, Math.max(LOW, y)).toFixed(3));
    return next;
  };
  const grab = useDrag<0 | 2, Bezier>({
    move: (event, _, at) => {
      const area = box.current!.getBoundingClientRect();
      const x = (event.clientX - area.left) / area.width;
      const y = HIGH - ((event.clientY - area.top) / area.height) * (HIGH - LOW);
      const next = put(at, x * 1.16 - 0.08, y);
      setDrag(next);
      return next;
    },
    end: (last) => {
      setDrag(null);
      if (last) onCommit({ bezier: last });
    },
  });
  const nudge = (at: 0 | 2) => (event: React.KeyboardEvent) => {
    const far = event.shiftKey ? 0.1 : 0.01;
    const by = {
      ArrowUp: [0, far],
      ArrowDown: [0, -far],
      ArrowLeft: [-far, 0],
      ArrowRight: [far, 0],
    }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    onCommit({ bezier: put(at, curve[at]! + by[0]!, curve[at + 1]! + by[1]!) });
  };
  const at = (x: number, y: number) => ({ cx: x, cy: 1 - y });
  const [x1, y1, x2, y2] = curve;
  return (
    <div className={styles.drawing}>
      <svg
        ref={box}
        width={SIDE}
        height={(SIDE * (HIGH - LOW)) / 1.16}
        viewBox={`-0.08 ${1 - HIGH} 1.16 ${HIGH - LOW}`}
        role="group"
        aria-label="Curve to draw"
      >
        <rect x={0} y={0} width={1} height={1} className={styles.frame} />
        <line x1={0} y1={1} x2={x1} y2={1 - y1} className={styles.arm} />
        <line x1={1} y1={0} x2={x2} y2={1 - y2} className={styles.arm} />
        {drawn ? (
          <path d={`M0,1 C${x1},${1 - y1} ${x2},${1 - y2} 1,0`} className={styles.curve} />
        ) : (
          <g transform="translate(0 0)">
            <EaseCurve ease={shown} bare />
          </g>
        )}
        {(
          [
            [0, x1, y1, "First handle"],
            [2, x2, y2, "Second handle"],
          ] as const
        ).map(([which, x, y, name]) => (
          <circle
            key={name}
            {...at(x, y)}
            r={0.055}
            className={styles.handle}
            role="slider"
            tabIndex={0}
            aria-label={name}
            aria-valuenow={y}
            aria-valuetext={`${x}, ${y}`}
            onPointerDown={(event) => grab(event, which)}
            onKeyDown={nudge(which)}
          />
        ))}
      </svg>
      <div className={styles.numbers}>
        {curve.map((value, k) => (
          <NumberField
            key={NAMES[k]}
            label={NAMES[k]!}
            value={value}
            onCommit={(typed) => {
              const next = [...curve] as Bezier;
              next[k] =
                k % 2 ? Math.min(20, Math.max(-20, typed)) : Math.min(1, Math.max(0, typed));
              onCommit({ bezier: next });
            }}
          />
        ))}
      </div>
    </div>
  );
}

/** The drawn curve equal or nearest to an ease. */
function useNearest(
  ease: Ease,
  shapes: readonly { into: string; out: string; samples: readonly number[] }[] | undefined,
): Bezier {
  const [found, setFound] = useState<Bezier>([0.33, 0.33, 0.67, 0.67]);
  useEffect(() => {
    if (typeof ease === "object" && "bezier" in ease) return setFound(ease.bezier);
    if (typeof ease === "string") return setFound([0.33, 0.33, 0.67, 0.67]);
    const one = shapes?.find(
      (each) => each.into === (ease.into ?? "") && each.out === (ease.out ?? ""),
    );
    if (one) setFound(drawnFrom(one.samples));
  }, [ease, shapes]);
  return found;
}
