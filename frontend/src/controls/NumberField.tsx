import { App, Input } from "antd";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { plain } from "../api/values";
import { readNumber } from "./number";
import styles from "./NumberField.module.css";

interface Props {
  label: string;
  value: number;
  unit?: string;
  /** The frame size for values in pixels. */
  height?: number;
  width?: number;
  rate?: number;
  whole?: boolean;
  disabled?: boolean;
  /** Reads what is typed, in place of {@link readNumber}. */
  read?: (typed: string) => number | null;
  onCommit: (value: number) => unknown;
}

/** A number to type, with arithmetic; text that cannot be read restores the old number. */
export function NumberField(props: Props) {
  const { label, value, unit = "", height = 1080, rate = 25, whole, disabled, onCommit } = props;
  const width = props.width ?? (height * 16) / 9;
  const { message } = App.useApp();
  const [text, setText] = useState<string | null>(null);
  useEffect(() => setText(null), [value]);
  const commit = () => {
    if (text === null) return;
    const found = props.read
      ? props.read(text)
      : readNumber(text, { now: value, unit, height, width, rate });
    setText(null);
    if (found === null && text.trim() && text !== plain(value)) {
      const kind = unit ? `a number in ${unit}` : "a number";
      const typed = text.length > 40 ? `${text.slice(0, 40)}…` : text;
      void message.warning(
        `“${typed}” cannot be read as ${kind} for ${label}. It stays at ${plain(value)}.`,
      );
    }
    if (found !== null && found !== value) onCommit(whole ? Math.round(found) : found);
  };
  const own = useRef<HTMLSpanElement>(null);
  const nudge = (up: boolean, far: boolean) =>
    onCommit(Number((value + (up ? 1 : -1) * (whole ? 1 : 0.01) * (far ? 10 : 1)).toFixed(6)));
  const wheel = useEffectEvent((event: WheelEvent) => {
    // Only in focus, so that scrolling past it changes nothing.
    if (!(event.target as HTMLElement).matches(":focus")) return;
    event.preventDefault();
    nudge(event.deltaY < 0, event.shiftKey);
  });
  useEffect(() => {
    const field = own.current;
    const turned = (event: WheelEvent) => wheel(event);
    field?.addEventListener("wheel", turned, { passive: false });
    return () => field?.removeEventListener("wheel", turned);
  }, []);
  return (
    <span ref={own} className={styles.holder}>
      <Input
        size="small"
        variant="borderless"
        className={styles.numberField}
        aria-label={label}
        disabled={disabled}
        value={text ?? plain(value)}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter") commit();
          if (event.key === "Escape") setText(null);
          if (event.key === "ArrowUp" || event.key === "ArrowDown") {
            event.preventDefault();
            nudge(event.key === "ArrowUp", event.shiftKey);
          }
        }}
      />
    </span>
  );
}
