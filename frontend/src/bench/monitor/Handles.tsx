import { useRef } from "react";
import type { ValueKind } from "../../api/client";
import { matters } from "../../api/values";
import { BoxHandle, WidthHandle } from "./BoxHandles";
import { findStep } from "../graph";
import { rounded, useHandle, useHeld, type Held, type One } from "./grip";
import { useBench } from "../store";
import { useKinds } from "../useDraft";
import styles from "./Handles.module.css";

/** Points, angles and boxes of the selected step, as handles on the picture. */
export function Handles(props: Held) {
  const selected = useBench((state) => state.selected);
  const { kindOf } = useKinds();
  const held = findStep(props.draft.effect, selected);
  const kind = held && kindOf(held.step);
  if (!held || !kind || !selected) return null;
  // A value without effect at the present choices has no handle.
  const values = kind.values.filter((one) => matters(held.step, one, kind.values));
  const named = (name: string) => values.find((one) => one.name === name);
  const centre = named("centre") ?? named("position") ?? named("pivot");
  const [width, height] = [named("width"), named("height")];
  const [scaleX, scaleY] = [named("scale_x"), named("scale_y")];
  const shared = { ...props, place: selected, step: held.step };
  return (
    <svg
      className={styles.holds}
      viewBox={`0 0 ${props.size.width} ${props.size.height}`}
      aria-label="Handles of the selected step"
    >
      {centre && width?.unit === "%h" && height?.unit === "%h" && (
        <BoxHandle {...shared} kind={centre} wide={width} high={height} />
      )}
      {centre && scaleX && scaleY && (
        <BoxHandle
          {...shared}
          kind={centre}
          wide={scaleX}
          high={scaleY}
          about={{ pivot: named("pivot")!, turn: named("turn")! }}
        />
      )}
      {centre && named("box")?.unit === "%w" && (
        <WidthHandle {...shared} kind={named("box")!} centre={centre} />
      )}
      {values
        .filter((one) => one.unit === "°" && one.type === "number")
        .slice(0, 1)
        .map((one) => (
          <AngleHandle key={one.name} {...shared} kind={one} centre={centre} />
        ))}
      {values
        .filter((one) => one.type === "point")
        .map((one) => (
          <PointHandle key={one.name} {...shared} kind={one} />
        ))}
    </svg>
  );
}

/** A point that is an offset and not a place in the frame. */
const isOffset = (kind: ValueKind) => {
  const [x, y] = kind.default as [number, number];
  return x === 0 && y === 0;
};

function PointHandle(props: One) {
  const { kind, size } = props;
  const { shown, settable, trying, commit } = useHeld(props);
  const last = useRef<[number, number] | null>(null);
  const origin = isOffset(kind) ? 0.5 : 0;
  const grip = useHandle(
    (x, y) => {
      last.current = [rounded(x - origin), rounded(y - origin)];
      trying(last.current);
    },
    () => {
      if (last.current) commit(last.current);
      last.current = null;
    },
  );
  if (!settable || !Array.isArray(shown)) return null;
  const [x, y] = (last.current ?? shown) as [number, number];
  const [cx, cy] = [(x + origin) * size.width, (y + origin) * size.height];
  const r = size.height / 60;
  return (
    <g
      className={styles.hold}
      role="slider"
      tabIndex={0}
      aria-label={`${kind.label} on the picture`}
      aria-valuetext={`${x}, ${y}`}
      aria-valuenow={x}
      transform={`translate(${cx} ${cy})`}
      {...grip}
      onKeyDown={(event) => {
        const by = (event.shiftKey ? 10 : 1) / 100;
        const step = {
          ArrowLeft: [-by, 0],
          ArrowRight: [by, 0],
          ArrowUp: [0, -by],
          ArrowDown: [0, by],
        }[event.key];
        if (!step) return;
        event.preventDefault();
        event.stopPropagation();
        commit([rounded(x + step[0]!), rounded(y + step[1]!)]);
      }}
    >
      <circle className={styles.holdGround} r={r * 2} />
      <circle className={styles.holdRing} r={r} />
      <path className={styles.holdCross} d={`M${-r * 1.6},0H${r * 1.6}M0,${-r * 1.6}V${r * 1.6}`} />
      <title>{kind.label}</title>
    </g>
  );
}

function AngleHandle(props: One & { centre: ValueKind | undefined }) {
  const { kind, size, centre } = props;
  const { shown, settable, trying, commit } = useHeld(props);
  const around = useHeld({ ...props, kind: centre ?? kind }).shown;
  const last = useRef<number | null>(null);
  const middle = centre && !isOffset(centre) ? around : [0.5, 0.5];
  const [mx, my] = Array.isArray(middle) ? (middle as [number, number]) : [0.5, 0.5];
  const grip = useHandle(
    (x, y, fine) => {
      const angle = Math.atan2((y - my) * size.height, (x - mx) * size.width) * (180 / Math.PI);
      // Whole turns are kept: the arm shows only the angle within a turn.
      const turns = Math.round((Number(shown) - angle) / 360) * 360;
      const near = fine ? angle : Math.round(angle / 5) * 5;
      last.current = rounded(near + turns, 2);
      trying(last.current);
    },
    () => {
      if (last.current !== null) commit(last.current);
      last.current = null;
    },
  );
  if (!settable || typeof shown !== "number") return null;
  const angle = last.current ?? shown;
  const arm = size.height / 5;
  const r = size.height / 70;
  return (
    <g
      className={styles.hold}
      role="slider"
      tabIndex={0}
      aria-label={`${kind.label} on the picture`}
      aria-valuenow={angle}
      transform={`translate(${mx * size.width} ${my * size.height}) rotate(${angle})`}
      {...grip}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
        if (!by) return;
        event.preventDefault();
        event.stopPropagation();
        commit(rounded(angle + by * (event.shiftKey ? 15 : 1), 2));
      }}
    >
      <line className={styles.holdArm} x1={r * 2} x2={arm} />
      <circle className={styles.holdGround} cx={arm} r={r * 2.2} />
      <rect className={styles.holdRing} x={arm - r} y={-r} width={2 * r} height={2 * r} />
      <title>{`${kind.label}: steps of 5°, with Shift freely`}</title>
    </g>
  );
}
