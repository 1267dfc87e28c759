import { Input, Select } from "antd";
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
  onCommit: (value: number) => unknown;
}

/** A number with its unit, and a slider if it has a range. */
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

interface NameProps {
  label: string;
  name: string;
  onCommit: (name: string) => unknown;
}

/** A name, saved when the field loses focus; an empty one restores the old name. */
export function NameRow({ label, name, onCommit }: NameProps) {
  return (
    <div className="control-head">
      <span>Name</span>
      <Input
        size="small"
        style={{ width: 180 }}
        aria-label={label}
        key={name}
        defaultValue={name}
        onBlur={(event) => {
          const next = event.target.value.trim();
          if (next && next !== name) onCommit(next);
        }}
        onPressEnter={(event) => event.currentTarget.blur()}
      />
    </div>
  );
}

interface FramesProps {
  rate: number;
  rows: readonly (readonly [label: string, value: number, onCommit: (value: number) => void])[];
}

/** Whole numbers of frames, one in each row. */
export function FrameRows({ rate, rows }: FramesProps) {
  return rows.map(([label, value, onCommit]) => (
    <NumberRow
      key={label}
      label={label}
      unit="frames"
      whole
      rate={rate}
      value={value}
      onCommit={onCommit}
    />
  ));
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
