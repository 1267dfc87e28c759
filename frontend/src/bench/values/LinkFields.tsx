import type { Control, Effect, ValueKind } from "../../api/client";
import { isLink, plain, type Ease, type Link } from "../../api/values";
import { EaseField } from "../../controls/EaseField";
import { NumberField } from "../../controls/NumberField";
import { Field } from "./ValueField";
import styles from "./LinkFields.module.css";

interface Props {
  effect: Effect;
  label: string;
  kind: ValueKind;
  link: Link;
  control: Control | undefined;
  onPut: (link: Link) => void;
}

/** How a control drives a value: through a range and an ease, or by a table of its settings. */
export function LinkFields({ effect, label, kind, link, control, onPut }: Props) {
  const by = `by “${control?.label ?? link.control}”`;
  if (link.table) {
    const table = link.table;
    const options = control?.type === "toggle" ? ["false", "true"] : Object.keys(table);
    return (
      <div className={styles.linkFields}>
        <span className="soft">{by}</span>
        {options.map((option) => {
          const words = option === "true" ? "on" : option === "false" ? "off" : option;
          return (
            <div key={option} className={styles.linkOption}>
              <span className="soft">{words}:</span>
              <Field
                rate={effect.rate}
                slots={effect.slots}
                label={`${label} where ${words}`}
                kind={kind}
                value={table[option] ?? kind.default}
                onTry={() => undefined}
                onCommit={(value) => onPut({ ...link, table: { ...table, [option]: value } })}
              />
            </div>
          );
        })}
      </div>
    );
  }
  if (!link.range) return null;
  const [low, high] = link.range;
  return (
    <div className={styles.linkFields}>
      <span className={styles.linkOption}>
        <span className="soft">{by}, from</span>
        <NumberField
          label={`${label}: from`}
          value={low}
          unit={kind.unit}
          onCommit={(value) => onPut({ ...link, range: [value, high] })}
        />
        <span className="soft">to</span>
        <NumberField
          label={`${label}: to`}
          value={high}
          unit={kind.unit}
          onCommit={(value) => onPut({ ...link, range: [low, value] })}
        />
      </span>
      {control?.type !== "ease" && (
        <EaseField
          label={`${label}: along`}
          value={link.ease ?? "linear"}
          onCommit={(ease: Ease) => onPut({ ...link, ease })}
        />
      )}
    </div>
  );
}

/** The link from a control of a type to a value of a type; undefined if there is none. */
export function linkTo(control: Control, kind: ValueKind, shown: unknown): Link | undefined {
  const link: Link = { control: control.slug };
  const numeric = ["number", "whole", "angle", "seed"].includes(control.type);
  if (kind.type === "number" && control.type === "ease")
    return { ...link, range: kind.slider as [number, number] };
  if (kind.type === "number" && numeric)
    return { ...link, range: (kind.slider ?? [0, 1]) as [number, number] };
  if (control.type === "toggle" && kind.type !== "toggle")
    return { ...link, table: { false: shown, true: shown } };
  if (control.type === "choice" && kind.type !== "choice")
    return {
      ...link,
      table: Object.fromEntries((control.options ?? []).map((one) => [one, shown])),
    };
  return control.type === kind.type ? link : undefined;
}

/** A linked value in words, if it has no fields of its own. */
export function linkWords(value: unknown, shown: unknown, control?: Control): string {
  if (!isLink(value)) return "";
  return `${plain(shown)} by “${control?.label ?? value.control}”`;
}
