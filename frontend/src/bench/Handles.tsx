import { useRef } from "react";
import type { DraftView, Step, ValueKind } from "../api/client";
import { findStep } from "./graph";
import { useSetting } from "./setting";
import { useBench, type Place } from "./store";
import { useKinds, type EditDraft } from "./useDraft";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  size: { width: number; height: number };
  edit: EditDraft;
}

interface One extends Props {
  place: Place;
  step: Step;
  kind: ValueKind;
}

/** Points, angles and boxes of the selected step, to be taken hold of on the picture. */
export function Handles(props: Props) {
  const selected = useBench((state) => state.selected);
  const { kindOf } = useKinds();
  const held = findStep(props.draft.effect, selected);
  const kind = held && kindOf(held.step.kind);
  if (!held || !kind || !selected) return null;
  const named = (name: string) => kind.values.find((one) => one.name === name);
  const centre = named("centre") ?? named("position") ?? named("pivot");
  const [width, height] = [named("width"), named("height")];
  const shared = { ...props, place: selected, step: held.step };
  return (
    <svg
      className="holds"
      viewBox={`0 0 ${props.size.width} ${props.size.height}`}
      aria-label="Handles of the selected step"
    >
      {centre && width?.unit === "%h" && height?.unit === "%h" && (
        <BoxHandle {...shared} kind={centre} wide={width} high={height} />
      )}
      {kind.values
        .filter((one) => one.unit === "°" && one.type === "number")
        .slice(0, 1)
        .map((one) => (
          <AngleHandle key={one.name} {...shared} kind={one} centre={centre} />
        ))}
      {kind.values
        .filter((one) => one.type === "point")
        .map((one) => (
          <PointHandle key={one.name} {...shared} kind={one} />
        ))}
    </svg>
  );
}

/** Where a pointer is, in shares of the frame. */
function shareOf(svg: SVGSVGElement, event: { clientX: number; clientY: number }) {
  const box = svg.getBoundingClientRect();
  return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height] as const;
}

function useGrip(onMove: (x: number, y: number, fine: boolean) => void, onEnd: () => void) {
  const gripped = useRef(false);
  return {
    onPointerDown: (event: React.PointerEvent<SVGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      gripped.current = true;
    },
    onPointerMove: (event: React.PointerEvent<SVGElement>) => {
      if (!gripped.current) return;
      event.stopPropagation();
      const [x, y] = shareOf(event.currentTarget.ownerSVGElement!, event);
      onMove(x, y, event.shiftKey);
    },
    onPointerUp: () => {
      if (gripped.current) onEnd();
      gripped.current = false;
    },
  };
}

const rounded = (value: number, places = 4) => Number(value.toFixed(places));

/** A point that is none of the frame but a way from where a thing is. */
const isOffset = (kind: ValueKind) => {
  const [x, y] = kind.default as [number, number];
  return x === 0 && y === 0;
};

function PointHandle(props: One) {
  const { kind, size } = props;
  const { shown, settable, trying, commit } = useSetting(props);
  const last = useRef<[number, number] | null>(null);
  const origin = isOffset(kind) ? 0.5 : 0;
  const grip = useGrip(
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
      className="hold"
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
      <circle className="hold-ground" r={r * 2} />
      <circle className="hold-ring" r={r} />
      <path className="hold-cross" d={`M${-r * 1.6},0H${r * 1.6}M0,${-r * 1.6}V${r * 1.6}`} />
      <title>{kind.label}</title>
    </g>
  );
}

function AngleHandle(props: One & { centre: ValueKind | undefined }) {
  const { kind, size, step, centre } = props;
  const { shown, settable, trying, commit } = useSetting(props);
  const last = useRef<number | null>(null);
  const middle = (centre && !isOffset(centre) && step.values?.[centre.name]) || [0.5, 0.5];
  const [mx, my] = Array.isArray(middle) ? (middle as [number, number]) : [0.5, 0.5];
  const grip = useGrip(
    (x, y, fine) => {
      const angle = Math.atan2((y - my) * size.height, (x - mx) * size.width) * (180 / Math.PI);
      // Whole turns are kept: the arm only says where in the turn it is.
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
      className="hold"
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
      <line className="hold-arm" x1={r * 2} x2={arm} />
      <circle className="hold-ground" cx={arm} r={r * 2.2} />
      <rect className="hold-ring" x={arm - r} y={-r} width={2 * r} height={2 * r} />
      <title>{`${kind.label}: steps of 5°, with Shift freely`}</title>
    </g>
  );
}

function BoxHandle(props: One & { wide: ValueKind; high: ValueKind }) {
  const { place, size, step, wide, high, edit } = props;
  const attempt = useBench((state) => state.attempt);
  const middle = useSetting(props).shown as [number, number];
  const across = useSetting({ ...props, kind: wide });
  const down = useSetting({ ...props, kind: high });
  const last = useRef<[number, number] | null>(null);
  const change = (sides: [number, number]) => ({
    do: "set-values" as const,
    ...place,
    values: { [wide.name]: sides[0], [high.name]: sides[1] },
    said: `${wide.label} and ${high.label} on the picture`,
  });
  const grip = useGrip(
    (x, y) => {
      const sides: [number, number] = [
        rounded((Math.abs(x - middle[0]) * 2 * size.width * 100) / size.height, 2),
        rounded(Math.abs(y - middle[1]) * 2 * 100, 2),
      ];
      last.current = sides;
      attempt(change(sides));
    },
    () => {
      if (last.current) void edit(change(last.current));
      last.current = null;
    },
  );
  const plain = [wide, high].every((one) => typeof (step.values?.[one.name] ?? 0) === "number");
  if (!plain || !Array.isArray(middle)) return null;
  const [w, h] = (last.current ?? [across.shown, down.shown]) as [number, number];
  const [px, py] = [(w / 100) * size.height, (h / 100) * size.height];
  const [x, y] = [middle[0] * size.width - px / 2, middle[1] * size.height - py / 2];
  const r = size.height / 70;
  return (
    <g className="hold">
      <rect className="hold-arm" x={x} y={y} width={px} height={py} />
      <rect
        className="hold-ring"
        role="slider"
        tabIndex={0}
        aria-label="Corner of the box on the picture"
        aria-valuenow={w}
        x={x + px - r}
        y={y + py - r}
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
          void edit(change([rounded(w + by[0]!, 2), rounded(h + by[1]!, 2)]));
        }}
      />
    </g>
  );
}
