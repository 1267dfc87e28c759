import { Button } from "antd";
import { ColourField } from "./ColourField";
import { NumberField } from "./NumberField";

/** Colour stops along a ramp: a bar, and each stop with its place and colour. */
export function StopsField(props: {
  label: string;
  value: [number, string][];
  onTry: (value: unknown) => void;
  onCommit: (value: unknown) => void;
}) {
  const { label, value, onTry, onCommit } = props;
  const bar = value.map(([at, colour]) => `${colour} ${at * 100}%`).join(", ");
  const ground = value.length > 1 ? `linear-gradient(90deg, ${bar})` : value[0]?.[1];
  const put = (index: number, stop: [number, string], kept = true) =>
    (kept ? onCommit : onTry)(value.map((old, at) => (at === index ? stop : old)));
  return (
    <div className="stops">
      <div className="stops-bar" style={{ background: ground }} />
      {value.map(([at, colour], index) => (
        <div className="stop" key={`${at}-${index}`}>
          <NumberField
            label={`${label}: place of stop ${index + 1}`}
            value={at}
            onCommit={(next) => put(index, [next, colour])}
          />
          <ColourField
            label={`${label}: colour of stop ${index + 1}`}
            value={colour}
            onTry={(next) => put(index, [at, next], false)}
            onCommit={(next) => put(index, [at, next])}
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
      <Button size="small" onClick={() => onCommit([...value, [0.5, "#808080"]])}>
        Add a stop
      </Button>
    </div>
  );
}
