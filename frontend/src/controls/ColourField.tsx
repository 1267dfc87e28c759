import { ColorPicker } from "antd";

/** A colour with a picker and its hex. */
export function ColourField(props: {
  label: string;
  value: string;
  onTry: (colour: string) => void;
  onCommit: (colour: string) => void;
}) {
  const { label, value, onTry, onCommit } = props;
  const hex = (colour: { toHexString: () => string }) => colour.toHexString().toUpperCase();
  return (
    <ColorPicker
      size="small"
      value={value}
      format="hex"
      showText
      aria-label={label}
      onChange={(colour) => onTry(hex(colour))}
      onChangeComplete={(colour) => onCommit(hex(colour))}
    >
      <button className="bare colour-field" aria-label={`${label}: ${value}`}>
        <span className="swatch" style={{ background: value }} />
        <span className="mono">{value}</span>
      </button>
    </ColorPicker>
  );
}
