import { Select } from "antd";
import { NumberField } from "../../controls/NumberField";
import { Slider } from "../../controls/Slider";

interface NumberProps {
  label: string;
  value: number;
  unit?: string;
  whole?: boolean;
  rate?: number;
  title?: string;
  range?: [number, number];
  onTry?: (value: number) => void;
  onCommit: (value: number) => void;
}

/** A number with its unit, and a slider where it has a range. */
export function NumberRow(props: NumberProps) {
  const { label, value, unit = "", whole, rate, title, range, onTry, onCommit } = props;
  return (
    <div className="control-row">
      <div className="control-head">
        <span title={title}>{label}</span>
        <span className="control-number">
          <NumberField
            label={label}
            value={value}
            unit={unit}
            {...(whole ? { whole } : {})}
            {...(rate ? { rate } : {})}
            onCommit={onCommit}
          />
          {unit && <span className="mono soft">{unit}</span>}
        </span>
      </div>
      {range && (
        <Slider
          label={`${label}, slider`}
          {...(whole ? { whole } : {})}
          value={value}
          range={range}
          onTry={onTry ?? (() => undefined)}
          onCommit={onCommit}
        />
      )}
    </div>
  );
}

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  onPick: (value: T) => void;
}

/** A choice from a short list. */
export function ChoiceRow<T extends string>({ label, value, options, onPick }: ChoiceProps<T>) {
  return (
    <div className="control-head">
      <span>{label}</span>
      <Select
        size="small"
        aria-label={label}
        value={value}
        popupMatchSelectWidth={false}
        options={[...options]}
        onChange={(picked: T) => onPick(picked)}
      />
    </div>
  );
}
