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
  const [scaleX, scaleY] = [named("scale_x"), named("scale_y")];
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
      {centre && scaleX && scaleY && (
        <BoxHandle {...shared} kind={centre} wide={scaleX} high={scaleY} scales />
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

/**
 * What lies around a point, by a corner that is dragged: a box of its own width and height, or the
 * whole frame, scaled about its pivot, turned and moved.
 */
function BoxHandle(props: One & { wide: ValueKind; high: ValueKind; scales?: boolean }) {
  const { place, size, step, wide, high, edit, scales } = props;
  const attempt = useBench((state) => state.attempt);
  const middle = useSetting(props).shown as [number, number];
  const across = useSetting({ ...props, kind: wide });
  const down = useSetting({ ...props, kind: high });
  const last = useRef<[number, number] | null>(null);
  const plain = [wide, high].every((one) => typeof (step.values?.[one.name] ?? 0) === "number");
  if (!plain || !Array.isArray(middle)) return null;
  const fixed = (name: string) => step.values?.[name];
  const pivot = (Array.isArray(fixed("pivot")) ? fixed("pivot") : [0.5, 0.5]) as number[];
  const turned = typeof fixed("turn") === "number" ? (fixed("turn") as number) : 0;
  const turn = scales ? turned : 0;
  // From the point that stays to the corner, in pixels, where both values are 1.
  const reach = scales
    ? [Math.max(0.02, 1 - pivot[0]!) * size.width, Math.max(0.02, 1 - pivot[1]!) * size.height]
    : [size.height / 200, size.height / 200];
  const back = scales ? pivot.map((at) => at / Math.max(0.02, 1 - at)) : [1, 1];
  const base = middle.map(
    (at, k) => (scales ? at - 0.5 + pivot[k]! : at) * (k ? size.height : size.width),
  );
  const change = (sides: [number, number]) => ({
    do: "set-values" as const,
    ...place,
    values: { [wide.name]: sides[0], [high.name]: sides[1] },
    said: `${wide.label} and ${high.label} on the picture`,
  });
  const take = (x: number, y: number, even: boolean) => {
    const [dx, dy] = [x * size.width - base[0]!, y * size.height - base[1]!];
    const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
    const places = scales ? 3 : 2;
    const side = (far: number, k: number) =>
      rounded((scales ? far : Math.abs(far)) / reach[k]!, places);
    const sides: [number, number] = [side(dx * c + dy * s, 0), side(dy * c - dx * s, 1)];
    last.current = even ? [sides[1], sides[1]] : sides;
    attempt(change(last.current));
  };
  const [w, h] = (last.current ?? [across.shown, down.shown]) as [number, number];
  const [right, bottom] = [w * reach[0]!, h * reach[1]!];
  const [left, top] = [-right * back[0]!, -bottom * back[1]!];
  const r = size.height / 70;
  const by = scales ? 0.01 : 1;
  return (
    <g className="hold" transform={`translate(${base[0]} ${base[1]}) rotate(${turn})`}>
      <path className="hold-arm" d={`M${left},${top}H${right}V${bottom}H${left}Z`} />
      <Corner
        x={right}
        y={bottom}
        r={r}
        value={w}
        onMove={take}
        onEnd={() => {
          if (last.current) void edit(change(last.current));
          last.current = null;
        }}
        onNudge={(x, y) => void edit(change([rounded(w + x * by, 3), rounded(h + y * by, 3)]))}
      />
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
  const grip = useGrip(onMove, onEnd);
  return (
    <rect
      className="hold-ring"
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
