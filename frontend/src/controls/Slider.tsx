import { useEffect, useRef, useState } from "react";

interface Props {
  label: string;
  value: number;
  range: readonly [number, number];
  whole?: boolean;
  disabled?: boolean;
  /** While it moves. */
  onTry: (value: number) => void;
  /** When it is let go. */
  onCommit: (value: number) => void;
}

/** A slider over the slider range; a value typed beyond it rests at the end. */
export function Slider({ label, value, range, whole, disabled, onTry, onCommit }: Props) {
  const [low, high] = range;
  const [moving, setMoving] = useState<number | null>(null);
  const latest = useRef<number | null>(null);
  useEffect(() => setMoving(null), [value]);
  const shown = moving ?? value;
  const part = Math.min(100, Math.max(0, ((shown - low) / (high - low || 1)) * 100));
  const step = whole ? 1 : niceStep(high - low);
  const commit = () => {
    if (latest.current === null) return;
    const found = latest.current;
    latest.current = null;
    onCommit(found);
  };
  return (
    <input
      type="range"
      aria-label={label}
      min={low}
      max={high}
      step={step}
      value={shown}
      disabled={disabled}
      style={{ "--part": `${part}%` } as React.CSSProperties}
      onChange={(event) => {
        const found = Number(event.target.value);
        latest.current = found;
        setMoving(found);
        onTry(found);
      }}
      onPointerUp={commit}
      onKeyUp={commit}
      onBlur={commit}
    />
  );
}

function niceStep(span: number): number {
  const rough = span / 400;
  const power = 10 ** Math.floor(Math.log10(rough));
  return Number((Math.ceil(rough / power) * power).toPrecision(1));
}
