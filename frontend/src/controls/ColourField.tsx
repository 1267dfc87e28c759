import { Button, ColorPicker } from "antd";
import styles from "./ColourField.module.css";

/** A colour with a picker, its hex code and its numbers; also picked from the monitor, if there is
 * one. */
export function ColourField(props: {
  label: string;
  value: string;
  onTry: (colour: string) => void;
  onCommit: (colour: string) => void;
  /** Starts picking a colour from a point of the monitor. */
  onPick?: () => void;
}) {
  const { label, value, onTry, onCommit, onPick } = props;
  const hex = (colour: { toHexString: () => string }) => colour.toHexString().toUpperCase();
  return (
    <span className={styles.colourField}>
      <ColorPicker
        size="small"
        value={value}
        defaultFormat="hex"
        onChange={(colour) => onTry(hex(colour))}
        onChangeComplete={(colour) => onCommit(hex(colour))}
      >
        <button className={`bare ${styles.colourField}`} aria-label={`${label}: ${value}`}>
          <span className="swatch" style={{ background: value }} />
          <span className="mono">{value}</span>
        </button>
      </ColorPicker>
      {onPick && (
        <Button
          size="small"
          type="text"
          onClick={onPick}
          title="Take a colour from the monitor"
          aria-label={`${label}: take from the monitor`}
        >
          <svg className={styles.aim} viewBox="0 0 14 14" aria-hidden="true">
            <circle cx="7" cy="7" r="3.5" />
            <path d="M7 0V5M7 9V14M0 7H5M9 7H14" />
          </svg>
        </Button>
      )}
    </span>
  );
}
