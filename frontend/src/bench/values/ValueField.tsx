import { Select, Switch } from "antd";
import { useQuery } from "@tanstack/react-query";
import { pixelWords } from "../../api/values";
import { rateOf } from "../../player/timecode";
import { asked } from "../../api/asked";
import type { Effect, ValueKind } from "../../api/client";
import { ColourField } from "../../controls/ColourField";
import { PointFields } from "../../controls/ControlRow";
import { NumberField } from "../../controls/NumberField";
import { Slider } from "../../controls/Slider";
import { StopsField, type Stop } from "../../controls/StopsField";
import { useBench } from "../store";
import { TextField } from "../../controls/TextField";
import styles from "./ValueField.module.css";
import valueRowStyles from "./ValueRow.module.css";

interface FieldProps extends Pick<Effect, "rate" | "slots"> {
  label: string;
  kind: ValueKind;
  value: unknown;
  /** Its default. */
  fresh?: unknown;
  onTry: (value: unknown) => void;
  onCommit: (value: unknown) => unknown;
}

/** The field that sets a value of any type. */
export function Field(props: FieldProps) {
  const { rate, slots, label, kind, value, fresh, onTry, onCommit } = props;
  const set = useBench((state) => state.set);
  const shape = useBench((state) => state.shape);
  const pick = (take: (colour: string) => void) => set({ pipette: take });
  const materials = useQuery({
    ...asked.materials(),
    enabled: ["asset", "font", "table"].includes(kind.type),
  });
  switch (kind.type) {
    case "number":
      return (
        <>
          <Slider
            label={`${label}, slider`}
            value={value as number}
            range={(kind.slider ?? [0, 1]) as [number, number]}
            whole={kind.whole}
            {...(typeof fresh === "number" ? { fresh } : {})}
            onTry={onTry}
            onCommit={onCommit}
          />
          <span className={styles.withUnit}>
            <NumberField
              label={label}
              value={value as number}
              unit={kind.unit}
              width={(1080 * shape.width) / shape.height}
              rate={rateOf(rate)}
              whole={kind.whole}
              onCommit={onCommit}
            />
            <span
              className={styles.unit}
              title={pixelWords(value as number, kind.unit ?? "", 1080, shape.width / shape.height)}
            >
              {kind.unit}
            </span>
          </span>
        </>
      );
    case "toggle":
      return (
        <span className={valueRowStyles.valueWide}>
          <Switch size="small" aria-label={label} checked={value as boolean} onChange={onCommit} />
        </span>
      );
    case "choice":
      return (
        <Select
          className={valueRowStyles.valueWide}
          size="small"
          aria-label={label}
          value={value as string}
          popupMatchSelectWidth={false}
          showSearch={(kind.options ?? []).length > 8}
          options={(kind.options ?? []).map((option) => ({ value: option }))}
          onChange={onCommit}
        />
      );
    case "slot":
      return (
        <Select
          className={valueRowStyles.valueWide}
          size="small"
          aria-label={label}
          value={value as string}
          options={(slots ?? []).map((slot) => ({ value: slot.id, label: slot.name }))}
          onChange={onCommit}
        />
      );
    case "asset":
    case "table":
      return (
        <Select
          className={valueRowStyles.valueWide}
          size="small"
          aria-label={label}
          placeholder={kind.type === "table" ? "choose a .cube file" : "choose a picture"}
          value={(value as string) || undefined}
          popupMatchSelectWidth={false}
          options={(materials.data?.materials ?? [])
            .filter((one) => one.facts.kind === (kind.type === "table" ? "table" : "still"))
            .map((one) => ({ value: one.id, label: one.name }))}
          onChange={onCommit}
        />
      );
    case "font":
      return (
        <Select
          className={valueRowStyles.valueWide}
          size="small"
          aria-label={label}
          value={value as string}
          popupMatchSelectWidth={false}
          options={[
            {
              label: "built in",
              options: (kind.options ?? []).map((one) => ({ value: one, label: one })),
            },
            {
              label: "yours",
              options: (materials.data?.materials ?? [])
                .filter((one) => one.facts.kind === "font")
                .map((one) => ({ value: one.id, label: one.name })),
            },
          ].filter((group) => group.options.length > 0)}
          onChange={onCommit}
        />
      );
    case "colour":
      return (
        <span className={valueRowStyles.valueWide}>
          <ColourField
            label={label}
            value={value as string}
            onTry={onTry}
            onCommit={onCommit}
            onPick={() => pick(onCommit)}
          />
        </span>
      );
    case "point":
      return (
        <span className={valueRowStyles.valueWide}>
          <PointFields label={label} value={value} onCommit={onCommit} />
        </span>
      );
    case "stops":
      return (
        <StopsField
          label={label}
          value={value as Stop[]}
          onTry={onTry}
          onCommit={onCommit}
          onPick={pick}
        />
      );
    default:
      return (
        <TextField
          className={valueRowStyles.valueWide}
          label={label}
          lines={kind.lines}
          value={String(value)}
          onCommit={onCommit}
        />
      );
  }
}
