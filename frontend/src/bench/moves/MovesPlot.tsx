import { useLayoutEffect, useRef, useState } from "react";
import type { Curve } from "../../api/client";
import { plain } from "../../api/values";
import { useDrag } from "../../controls/useDrag";
import { Band } from "./Band";
import { nameOf, pickOf } from "./names";
import {
  anchorOf,
  BAND,
  BANDS,
  LEAST,
  MARKS,
  numberOf,
  PAD,
  rangeOf,
  SNAP,
  strokeOf,
  WIDE,
  x,
  yIn,
} from "./plot";
import styles from "./MovesPlot.module.css";
import movesStyles from "./Moves.module.css";

/** The drag of picked keys: a share of the effect, and a difference of one curve's value. */
export interface Grip {
  share: number;
  value: number;
  of: Curve | null;
}

/** Two corners of the box that picks keys. */
type Box = [number, number, number, number];

/** The drag of keys: its start point, and the curve of the dragged key. */
interface Dragged {
  px: number;
  py: number;
  from: number;
  curve: Curve;
  picks: ReadonlySet<string>;
}

interface Props {
  curves: Curve[];
  others: Curve[];
  share: number;
  length: number;
  /** The curve whose name is under the pointer. */
  lit?: string | undefined;
  picks: ReadonlySet<string>;
  movable: (curve: Curve) => boolean;
  onPick: (picks: ReadonlySet<string>) => void;
  onTry: (grip: Grip, picks: ReadonlySet<string>) => void;
  onMove: (grip: Grip, picks: ReadonlySet<string>) => void;
  onRemove: () => void;
}

/** One large curve, or all curves in their own ranges; keys can be picked and dragged. */
export function MovesPlot(props: Props) {
  const { curves, others, share, length, picks, movable, onPick, onTry, onMove, onRemove } = props;
  const area = useRef<SVGSVGElement>(null);
  const [box, setBox] = useState<Box | null>(null);
  const [grip, setGrip] = useState<(Grip & Pick<Dragged, "picks">) | null>(null);
  const frames = Math.max(1, length - 1);
  const bands = curves.filter((one) => one.part === "band");
  const under = curves.length > 1 ? bands.length * BANDS : 0;
  const room = useRef<HTMLDivElement>(null);
  const { tall, least } = useTall(room, under);
  const high = tall + under;
  /** The middle of a band: under the curves, or alone. */
  const bandAt = (curve: Curve) =>
    curves.length > 1 ? tall + bands.indexOf(curve) * BANDS + BAND / 2 : tall / 2;
  const at = (event: { clientX: number; clientY: number }) => {
    const rect = area.current!.getBoundingClientRect();
    return [
      ((event.clientX - rect.left) / rect.width) * WIDE,
      ((event.clientY - rect.top) / rect.height) * high,
    ] as const;
  };
  const keysOf = (curve: Curve) => {
    const range = rangeOf(curve);
    const part = curve.part === "y" ? 1 : 0;
    return curve.keys.map((key, index) => {
      const value = numberOf(key.value, part);
      const y = curve.part === "band" ? bandAt(curve) : yIn(range, value, tall);
      return { key, index, name: pickOf(curve, index), x: x(key.share), y };
    });
  };
  const every = curves.flatMap((curve) => keysOf(curve).map((one) => ({ ...one, curve })));

  const drawBox = useDrag<Box>({
    move: (event, _, from) => {
      [from[2], from[3]] = at(event);
      setBox([...from]);
    },
    end: (_, from) => {
      setBox(null);
      onPick(
        new Set(
          within(every, from)
            .filter((one) => movable(one.curve))
            .map((one) => one.name),
        ),
      );
    },
    atOnce: true,
  });
  const moved = (event: PointerEvent, from: Dragged): Grip => {
    const [px, py] = at(event);
    const wanted = (px - from.px) / (WIDE - 2 * PAD);
    let place = Math.round((from.from + wanted) * frames) / frames;
    if (!event.altKey) {
      // A dragged key snaps to other keys and to the playhead.
      const near = [
        share,
        ...every.filter((one) => !from.picks.has(one.name)).map((one) => one.key.share),
      ]
        .map((one) => ({ one, far: Math.abs(x(one) - x(from.from + wanted)) }))
        .filter(({ far }) => far < SNAP)
        .sort((one, two) => one.far - two.far)[0];
      if (near) place = near.one;
    }
    place = Math.min(1, Math.max(0, place));
    const range = rangeOf(from.curve);
    const lift = ((from.py - py) / (tall - 2 * PAD)) * (range.high - range.low);
    const still = event.shiftKey || from.curve.part === "band" || Math.abs(from.py - py) < 3;
    return { share: place - from.from, value: still ? 0 : lift, of: from.curve };
  };
  const dragKeys = useDrag<Dragged, Grip>({
    move: (event, _, from) => {
      const next = moved(event, from);
      setGrip({ ...next, picks: from.picks });
      onTry(next, from.picks);
      return next;
    },
    end: (last, from) => {
      setGrip(null);
      if (last && (last.share || last.value)) onMove(last, from.picks);
    },
  });
  const nudge = (event: React.KeyboardEvent) => {
    if (!picks.size) return;
    const far = event.shiftKey ? 10 : 1;
    const one = every.find((each) => picks.has(each.name));
    const range = one ? rangeOf(one.curve) : { low: 0, high: 1 };
    const rise = ((range.high - range.low) / 100) * far;
    const by = {
      ArrowLeft: [-far / frames, 0],
      ArrowRight: [far / frames, 0],
      ArrowUp: [0, rise],
      ArrowDown: [0, -rise],
    }[event.key];
    if (event.key === "Delete" || event.key === "Backspace") onRemove();
    else if (by) onMove({ share: by[0]!, value: by[1]!, of: one?.curve ?? null }, picks);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const line = (curve: Curve) => {
    const range = rangeOf(curve);
    return curve.samples
      .map((value, k) => `${x(k / (curve.samples.length - 1))},${yIn(range, value, tall)}`)
      .join(" ");
  };
  const single = curves.length === 1 ? curves[0]! : null;
  const range = single && single.part !== "band" ? rangeOf(single) : null;
  // The label of the top stands where there is no key.
  const crowded = every.some((one) => one.y < 24 && one.x > WIDE - PAD - 130);
  const now = single?.samples[Math.round(share * ((single?.samples.length ?? 1) - 1))];
  return (
    <div ref={room} className={styles.plotRoom} style={{ minHeight: least }}>
      <svg
        ref={area}
        className={styles.plot}
        viewBox={`0 0 ${WIDE} ${high}`}
        role="group"
        tabIndex={0}
        aria-label={single ? `Curve of ${single.label}` : "Curves of all that moves"}
        onKeyDown={nudge}
        onPointerDown={(event) => drawBox(event, [...at(event), ...at(event)])}
      >
        {[0, 0.25, 0.5, 0.75, 1].map((one) => (
          <line
            key={one}
            className={styles.grid}
            x1={x(one)}
            x2={x(one)}
            y1={PAD}
            y2={tall - PAD}
          />
        ))}
        {[PAD, tall - PAD].map((one) => (
          <line key={one} className={styles.grid} x1={PAD} x2={WIDE - PAD} y1={one} y2={one} />
        ))}
        {others.map((one) => (
          <polyline key={nameOf(one)} className={styles.otherCurve} points={line(one)} />
        ))}
        {curves.map((one, k) =>
          one.part === "band" ? (
            <Band key={nameOf(one)} curve={one} y={bandAt(one)} />
          ) : (
            <polyline
              key={nameOf(one)}
              className={`${movesStyles.curve} ${nameOf(one) === props.lit ? movesStyles.lit : ""}`}
              {...strokeOf(k)}
              points={line(one)}
              data-curve={nameOf(one)}
            />
          ),
        )}
        <line className={styles.now} x1={x(share)} x2={x(share)} y1={4} y2={high - 4} />
        {range && now !== undefined && (
          <circle className={styles.nowDot} cx={x(share)} cy={yIn(range, now, tall)} r={3} />
        )}
        {every.map((one) => {
          const dragged = grip !== null && grip.picks.has(one.name);
          const own = dragged && grip.of && one.curve === grip.of && range;
          const rise = own ? (grip.value / (range.high - range.low)) * (tall - 2 * PAD) : 0;
          return (
            <g
              key={`${nameOf(one.curve)}#${one.index}`}
              className={`${styles.key} ${picks.has(one.name) ? "picked" : ""}`}
              data-key={one.name}
              data-anchor={anchorOf(one.key.words)}
              transform={`translate(${one.x + (dragged ? grip.share * (WIDE - 2 * PAD) : 0)} ${one.y - rise})`}
              onPointerDown={(event) => {
                event.stopPropagation();
                if (!movable(one.curve) || event.button !== 0) return;
                const more = event.ctrlKey || event.metaKey;
                const next = picks.has(one.name)
                  ? picks
                  : new Set(more ? [...picks, one.name] : [one.name]);
                onPick(next);
                const [px, py] = at(event);
                dragKeys(event, { px, py, from: one.key.share, curve: one.curve, picks: next });
              }}
            >
              <circle className={styles.keyGround} r={9} />
              <path d={MARKS[anchorOf(one.key.words)]} />
              <title>{one.key.words}</title>
            </g>
          );
        })}
        {box && (
          <rect
            className={styles.pickBox}
            x={Math.min(box[0], box[2])}
            y={Math.min(box[1], box[3])}
            width={Math.abs(box[2] - box[0])}
            height={Math.abs(box[3] - box[1])}
          />
        )}
        {range && (
          <>
            <text x={PAD + 10} y={tall - 1}>
              {plain(range.low)} at the bottom
            </text>
            <text
              {...(crowded ? { x: PAD + 10 } : { x: WIDE - PAD - 10, textAnchor: "end" })}
              y={9}
            >
              {plain(range.high)} at the top
            </text>
          </>
        )}
      </svg>
    </div>
  );
}

/** Keys within a box, or at most 4 units beside it. */
function within<K extends { x: number; y: number }>(keys: readonly K[], box: Box): K[] {
  const [left, right] = [Math.min(box[0], box[2]) - 4, Math.max(box[0], box[2]) + 4];
  const [top, bottom] = [Math.min(box[1], box[3]) - 4, Math.max(box[1], box[3]) + 4];
  return keys.filter(({ x, y }) => x >= left && x <= right && y >= top && y <= bottom);
}

/** The height of the drawing in its own units, so that it fills its area, and its smallest height
 * in pixels. */
function useTall(room: React.RefObject<HTMLDivElement | null>, under: number) {
  const [size, setSize] = useState({ width: WIDE, height: 0 });
  useLayoutEffect(() => {
    const seen = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    if (room.current) seen.observe(room.current);
    return () => seen.disconnect();
  }, [room]);
  const scale = WIDE / Math.max(1, size.width);
  return {
    tall: Math.max(LEAST * scale, size.height * scale - under),
    least: LEAST + under / scale,
  };
}
