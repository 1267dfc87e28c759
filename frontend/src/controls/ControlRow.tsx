import { Select, Switch } from "antd";
import type { Control } from "../api/client";
import { plain, type Ease } from "../api/values";
import { ColourField } from "./ColourField";
import { EaseField } from "./EaseField";
import { NumberField } from "./NumberField";
import { Slider } from "./Slider";
import { StopsField, type Stop } from "./StopsField";
import { adviceOn, goodWords, NUMERIC } from "./faceplate";
import { TextField } from "./TextField";

interface Props {
  control: Control;
  value: unknown;
  onTry: (value: unknown) => void;
  onCommit: (value: unknown) => unknown;
}

/** One control of a faceplate, exactly as the editor sees it. */
export function ControlRow({ control, value, onTry, onCommit }: Props) {
  const { label, type } = control;
  const unit = type === "angle" ? "°" : (control.unit ?? "");
  const numeric = NUMERIC.includes(type);
  const whole = type === "whole" || type === "seed";
  const advice = adviceOn(control, value);
  const changed = JSON.stringify(value) !== JSON.stringify(control.default);
  return (
    <div className="control-row" data-control={control.slug}>
      <div className="control-head">
        <span title={control.help}>{label}</span>
        {changed && (
          <button
            className="link control-reset"
            title={`Back to ${plain(control.default)}`}
            aria-label={`${label}: back to its default`}
            onClick={() => onCommit(control.default)}
          >
            reset
          </button>
        )}
        {numeric && (
          <span className="control-number">
            <NumberField
              label={label}
              value={value as number}
              unit={unit}
              whole={whole}
              onCommit={onCommit}
            />
            {unit && <span className="mono soft">{unit}</span>}
          </span>
        )}
        {type === "toggle" && (
          <Switch
            size="small"
            aria-label={label}
            checked={value as boolean}
            onChange={(on) => onCommit(on)}
          />
        )}
        {(type === "choice" || type === "slot") && (
          <Select
            size="small"
            aria-label={label}
            value={value as string}
            popupMatchSelectWidth={false}
            options={(control.options ?? []).map((option) => ({ value: option }))}
            onChange={(picked) => onCommit(picked)}
          />
        )}
        {type === "colour" && (
          <ColourField label={label} value={value as string} onTry={onTry} onCommit={onCommit} />
        )}
        {type === "ease" && (
          <EaseField label={label} value={value as Ease} onCommit={(ease) => onCommit(ease)} />
        )}
        {type === "text" && (
          <TextField label={label} lines value={value as string} onCommit={onCommit} />
        )}
        {type === "point" && <PointFields label={label} value={value} onCommit={onCommit} />}
      </div>
      {numeric && (
        <Slider
          label={`${label}, slider`}
          value={value as number}
          range={(control.slider ?? [0, 1]) as [number, number]}
          whole={whole}
          fresh={control.default as number}
          good={control.good ?? undefined}
          onTry={onTry}
          onCommit={onCommit}
        />
      )}
      {type === "stops" && (
        <StopsField label={label} value={value as Stop[]} onTry={onTry} onCommit={onCommit} />
      )}
      {advice && (
        <p className="control-edge" role="status">
          {advice}
        </p>
      )}
      {(control.help || control.good) && (
        <p className="control-help">
          {[control.help, goodWords(control)].filter(Boolean).join(" ")}
        </p>
      )}
    </div>
  );
}

/** Two numbers, x and y. */
export function PointFields(props: {
  label: string;
  value: unknown;
  onCommit: (value: unknown) => unknown;
}) {
  const [x = 0, y = 0] = props.value as [number, number];
  return (
    <span className="point-fields">
      <NumberField label={`${props.label}: x`} value={x} onCommit={(v) => props.onCommit([v, y])} />
      <NumberField label={`${props.label}: y`} value={y} onCommit={(v) => props.onCommit([x, v])} />
    </span>
  );
}
