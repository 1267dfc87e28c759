import { useEffect, useRef, useState } from "react";
import { useDrag } from "./useDrag";

interface Props {
  label: string;
  value: number;
  range: readonly [number, number];
  whole?: boolean;
  disabled?: boolean;
  /** The value that a double click restores. */
  fresh?: number;
  /** The part of the range that its maker recommends. */
  good?: readonly [number, number] | undefined;
  /** While it moves. */
  onTry: (value: number) => void;
  /** Called when the thumb is released; resolves when the value is saved or refused. */
  onCommit: (value: number) => unknown;
}

/** Half the width of the thumb, which never leaves the track. */
const HALF = 3;
/** The factor by which the value moves slower while Shift is held. */
const FINE = 10;

/** A slider over the slider range; for a typed value outside it the thumb stays at the end. */
export function Slider({
  label,
  value,
  range,
  whole,
  disabled,
  fresh,
  good,
  onTry,
  onCommit,
}: Props) {
  const [low, high] = range;
  const [moving, setMoving] = useState<number | null>(null);
  const latest = useRef<number | null>(null);
  useEffect(() => setMoving(null), [value]);
  const shown = moving ?? value;
  const part = Math.min(100, Math.max(0, ((shown - low) / (high - low || 1)) * 100));
  const step = whole ? 1 : niceStep(high - low);
  const at = (end: number) =>
    `${Math.min(100, Math.max(0, ((end - low) / (high - low || 1)) * 100))}%`;
  const zone = good && { "--good-from": at(good[0]), "--good-to": at(good[1]) };
  const commit = () => {
    if (latest.current === null) return;
    const found = latest.current;
    latest.current = null;
    // After a refusal it shows the saved value again.
    void Promise.resolve(onCommit(found)).finally(() => {
      if (latest.current === null) setMoving(null);
    });
  };
  const move = (found: number) => {
    latest.current = found;
    setMoving(found);
    onTry(found);
  };
  const drag = useDrag<{ x: number; value: number }>({
    move: (event, track, from) => {
      const width = track.getBoundingClientRect().width - 2 * HALF;
      const fine = event.shiftKey ? FINE : 1;
      const exact = from.value + (((event.clientX - from.x) / width) * (high - low)) / fine;
      const size = whole ? 1 : step / fine;
      const near = Math.min(high, Math.max(low, Math.round(exact / size) * size));
      // The next movement counts from here, so that pressing or releasing Shift makes nothing jump.
      from.x = event.clientX;
      from.value = Math.min(high, Math.max(low, exact));
      const next = Number(near.toFixed(6));
      if (next !== (latest.current ?? value)) move(next);
    },
    end: commit,
    atOnce: true,
  });
  return (
    <input
      type="range"
      aria-label={label}
      title="Shift moves it finely; a double click goes back to the default"
      min={low}
      max={high}
      step={step}
      value={shown}
      disabled={disabled}
      data-good={good ? "" : undefined}
      style={{ "--part": `${part}%`, ...zone } as React.CSSProperties}
      onChange={(event) => move(Number(event.target.value))}
      onPointerDown={(event) => {
        if (event.button !== 0 || disabled) return;
        // We handle the pointer ourselves, because the browser's own dragging has no fine movement.
        event.preventDefault();
        event.currentTarget.focus();
        const box = event.currentTarget.getBoundingClientRect();
        const share = (event.clientX - box.left - HALF) / (box.width - 2 * HALF);
        const there = low + Math.min(1, Math.max(0, share)) * (high - low);
        const near = Math.abs(
          event.clientX - box.left - HALF - (part / 100) * (box.width - 2 * HALF),
        );
        // A press on the thumb, or with Shift, moves from the present value.
        const start =
          event.shiftKey || near <= HALF + 2 ? Math.min(high, Math.max(low, shown)) : there;
        drag(event, { x: event.clientX, value: start });
      }}
      onKeyUp={commit}
      onBlur={commit}
      onDoubleClick={() => fresh !== undefined && fresh !== value && onCommit(fresh)}
    />
  );
}

function niceStep(span: number): number {
  const rough = span / 400;
  const power = 10 ** Math.floor(Math.log10(rough));
  return Number((Math.ceil(rough / power) * power).toPrecision(1));
}
