import { Button } from "antd";
import { useRef, useState } from "react";
import { ColourField } from "./ColourField";
import { NumberField } from "./NumberField";
import { shareAcross, useDrag } from "./useDrag";
import styles from "./StopsField.module.css";

/** A place, a colour, and possibly the ease to the next stop. */
export type Stop = [number, string, unknown?];

/** Colour stops along a ramp: a bar for dragging them, and the place and colour of each. */
export function StopsField(props: {
  label: string;
  value: Stop[];
  onTry: (value: unknown) => void;
  onCommit: (value: unknown) => unknown;
  onPick?: (take: (colour: string) => void) => void;
}) {
  const { label, value: kept, onTry, onPick } = props;
  const onCommit = (stops: Stop[]) =>
    props.onCommit([...stops].sort((one, two) => one[0] - two[0]));
  const bar = useRef<HTMLDivElement>(null);
  const [moving, setMoving] = useState<Stop[] | null>(null);
  const value = moving ?? kept;
  const ordered = [...value].sort((one, two) => one[0] - two[0]);
  const shades = ordered.map(([at, colour]) => `${colour} ${at * 100}%`).join(", ");
  const ground = ordered.length > 1 ? `linear-gradient(90deg, ${shades})` : ordered[0]?.[1];
  const changed = (index: number, more: { 0?: number; 1?: string }): Stop[] =>
    value.map((old, at) => (at === index ? (Object.assign([...old], more) as Stop) : old));
  const placeOf = (event: { clientX: number }) =>
    Math.round(shareAcross(bar.current!, event) * 200) / 200;
  const drag = useDrag<number, Stop[]>({
    move: (event, _, index) => {
      const stops = changed(index, { 0: placeOf(event) });
      setMoving(stops);
      onTry(stops);
      return stops;
    },
    end: (stops) => {
      if (stops) onCommit(stops);
      setMoving(null);
    },
  });
  return (
    <div className={styles.stops}>
      <div
        ref={bar}
        className={styles.stopsBar}
        style={{ background: ground }}
        title="Double-click puts a stop here; drag the marks"
        onDoubleClick={(event) => {
          const at = placeOf(event);
          onCommit([...value, [at, between(ordered, at)]]);
        }}
      >
        {value.map(([at, colour], index) => (
          <button
            key={index}
            className={`bare ${styles.stopMark}`}
            style={{ left: `${at * 100}%`, background: colour }}
            aria-label={`${label}: stop ${index + 1} at ${Math.round(at * 100)} %`}
            onPointerDown={(event) => drag(event, index)}
            onKeyDown={(event) => {
              const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
              if (!by) return;
              event.preventDefault();
              event.stopPropagation();
              const next = Math.min(1, Math.max(0, Number((at + by).toFixed(4))));
              onCommit(changed(index, { 0: next }));
            }}
          />
        ))}
      </div>
      {value.map(([at, colour], index) => (
        <div className={styles.stop} key={`${at}-${index}`}>
          <NumberField
            label={`${label}: place of stop ${index + 1}`}
            value={at}
            onCommit={(next) => onCommit(changed(index, { 0: next }))}
          />
          <ColourField
            label={`${label}: colour of stop ${index + 1}`}
            value={colour}
            onTry={(next) => onTry(changed(index, { 1: next }))}
            onCommit={(next) => onCommit(changed(index, { 1: next }))}
            {...(onPick
              ? { onPick: () => onPick((next) => onCommit(changed(index, { 1: next }))) }
              : {})}
          />
          <Button
            size="small"
            type="text"
            disabled={value.length < 2}
            aria-label={`Remove stop ${index + 1}`}
            onClick={() => onCommit(value.filter((_, other) => other !== index))}
          >
            ×
          </Button>
        </div>
      ))}
      <Button size="small" onClick={() => onCommit([...value, [0.5, between(ordered, 0.5)]])}>
        Add a stop
      </Button>
    </div>
  );
}

/** The colour of a ramp at a place, linear between its stops. */
function between(stops: readonly Stop[], at: number): string {
  const after = stops.findIndex((stop) => stop[0] >= at);
  const two = stops[after < 0 ? stops.length - 1 : after]!;
  const one = stops[Math.max(0, (after < 0 ? stops.length : after) - 1)] ?? two;
  const share = two[0] > one[0] ? Math.min(1, Math.max(0, (at - one[0]) / (two[0] - one[0]))) : 0;
  const part = (colour: string, k: number) => parseInt(colour.slice(1 + 2 * k, 3 + 2 * k), 16);
  const mixed = [0, 1, 2].map((k) =>
    Math.round(part(one[1], k) + (part(two[1], k) - part(one[1], k)) * share),
  );
  return `#${mixed.map((value) => value.toString(16).padStart(2, "0")).join("")}`.toUpperCase();
}
