import { useRef } from "react";
import type { ValueKind } from "../../api/client";
import { rounded, useHandle, useHeld, type One } from "./grip";
import { useBench } from "../store";
import styles from "./Handles.module.css";

/**
 * A box around a point, resized by a corner: either with a width and a height of its own, or the
 * whole frame, scaled about its pivot, turned and moved.
 */
export function BoxHandle(
  props: One & {
    wide: ValueKind;
    high: ValueKind;
    /** For the whole frame: the pivot of its scale, and its turn. */
    about?: { pivot: ValueKind; turn: ValueKind };
  },
) {
  const { size, wide, high, change, about } = props;
  const attempt = useBench((state) => state.attempt);
  const middle = useHeld(props).shown as [number, number];
  const across = useHeld({ ...props, kind: wide });
  const down = useHeld({ ...props, kind: high });
  const pivoted = useHeld({ ...props, kind: about?.pivot ?? wide }).shown;
  const turned = useHeld({ ...props, kind: about?.turn ?? wide }).shown;
  const last = useRef<[number, number] | null>(null);
  if (!across.settable || !down.settable || !Array.isArray(middle)) return null;
  const pivot = (Array.isArray(pivoted) ? pivoted : [0.5, 0.5]) as number[];
  const turn = about && typeof turned === "number" ? turned : 0;
  // From the fixed point to the corner, in pixels, if both values are 1.
  const reach = about
    ? [Math.max(0.02, 1 - pivot[0]!) * size.width, Math.max(0.02, 1 - pivot[1]!) * size.height]
    : [size.height / 200, size.height / 200];
  const back = about ? pivot.map((at) => at / Math.max(0.02, 1 - at)) : [1, 1];
  const base = middle.map(
    (at, k) => (about ? at - 0.5 + pivot[k]! : at) * (k ? size.height : size.width),
  );
  const sized = (sides: [number, number]) => ({
    do: "several" as const,
    changes: [across.setting(sides[0]), down.setting(sides[1])],
    said: `${wide.label} and ${high.label} on the picture`,
  });
  const take = (x: number, y: number, even: boolean) => {
    const [dx, dy] = [x * size.width - base[0]!, y * size.height - base[1]!];
    const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
    const places = about ? 3 : 2;
    const side = (far: number, k: number) =>
      rounded((about ? far : Math.abs(far)) / reach[k]!, places);
    const sides: [number, number] = [side(dx * c + dy * s, 0), side(dy * c - dx * s, 1)];
    last.current = even ? [sides[1], sides[1]] : sides;
    attempt(sized(last.current));
  };
  const [w, h] = (last.current ?? [across.shown, down.shown]) as [number, number];
  const [right, bottom] = [w * reach[0]!, h * reach[1]!];
  const [left, top] = [-right * back[0]!, -bottom * back[1]!];
  const r = size.height / 70;
  const by = about ? 0.01 : 1;
  return (
    <g className={styles.hold} transform={`translate(${base[0]} ${base[1]}) rotate(${turn})`}>
      <path className={styles.holdArm} d={`M${left},${top}H${right}V${bottom}H${left}Z`} />
      <Corner
        x={right}
        y={bottom}
        r={r}
        value={w}
        onMove={take}
        onEnd={() => {
          if (last.current) void change(sized(last.current));
          last.current = null;
        }}
        onNudge={(x, y) => void change(sized([rounded(w + x * by, 3), rounded(h + y * by, 3)]))}
      />
    </g>
  );
}

/** The width at which a text wraps, set by the side opposite its anchor; 0 means no limit. */
export function WidthHandle(props: One & { centre: ValueKind }) {
  const { kind, size, step, centre } = props;
  const { shown, settable, trying, commit } = useHeld(props);
  const at = useHeld({ ...props, kind: centre }).shown;
  const last = useRef<number | null>(null);
  const align = step.values?.["align"] ?? "centre";
  const [side, share] = align === "left" ? [1, 1] : align === "right" ? [-1, 1] : [1, 0.5];
  const [px, py] = Array.isArray(at) ? (at as [number, number]) : [0.5, 0.5];
  const grip = useHandle(
    (x) => {
      const wide = ((x - px) * side * 100) / share;
      last.current = wide < 2 ? 0 : rounded(wide, 1);
      trying(last.current);
    },
    () => {
      if (last.current !== null) commit(last.current);
      last.current = null;
    },
  );
  if (!settable || typeof shown !== "number") return null;
  const wide = last.current ?? shown;
  // Without a limit the handle stands near the frame's side.
  const idle = Math.max(10, rounded(((side > 0 ? 0.95 - px : px - 0.05) * 100) / share, 1));
  const across = wide || idle;
  const edge = (px + (side * share * across) / 100) * size.width;
  const other = edge - (side * across * size.width) / 100;
  const [y, tall, r] = [py * size.height, size.height / 8, size.height / 70];
  return (
    <g
      className={`${styles.hold} ${wide ? "" : styles.idle}`}
      role="slider"
      tabIndex={0}
      aria-label={`${kind.label} on the picture`}
      aria-valuenow={wide}
      {...grip}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -side, ArrowDown: -1, ArrowRight: side, ArrowUp: 1 }[event.key];
        if (!by) return;
        event.preventDefault();
        event.stopPropagation();
        commit(Math.max(0, rounded(across + by * (event.shiftKey ? 10 : 1), 1)));
      }}
    >
      <path
        className={styles.holdArm}
        d={`M${edge},${y - tall}V${y + tall}M${other},${y - tall}V${y + tall}`}
      />
      <circle className={styles.holdGround} cx={edge} cy={y} r={r * 2.2} />
      <rect className={styles.holdRing} x={edge - r} y={y - r} width={2 * r} height={2 * r} />
      <title>{wide ? kind.label : `${kind.label}: none yet; drag to break the lines to fit`}</title>
    </g>
  );
}

function Corner(props: {
  x: number;
  y: number;
  r: number;
  value: number;
  onMove: (x: number, y: number, even: boolean) => void;
  onEnd: () => void;
  onNudge: (x: number, y: number) => void;
}) {
  const { x, y, r, value, onMove, onEnd, onNudge } = props;
  const grip = useHandle(onMove, onEnd);
  return (
    <rect
      className={styles.holdRing}
      role="slider"
      tabIndex={0}
      aria-label="Corner of the box on the picture"
      aria-valuenow={value}
      x={x - r}
      y={y - r}
      width={2 * r}
      height={2 * r}
      {...grip}
      onKeyDown={(event) => {
        const by = {
          ArrowLeft: [-1, 0],
          ArrowRight: [1, 0],
          ArrowUp: [0, -1],
          ArrowDown: [0, 1],
        }[event.key];
        if (!by) return;
        event.preventDefault();
        event.stopPropagation();
        onNudge(by[0]!, by[1]!);
      }}
    >
      <title>With Shift, both sides alike</title>
    </rect>
  );
}
