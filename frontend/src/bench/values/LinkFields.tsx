import type { Control, Effect, ValueKind } from "../../api/client";
import { isLink, plain, type Ease, type Link } from "../../api/values";
import { EaseField } from "../../controls/EaseField";
import { NUMERIC } from "../../controls/faceplate";
import { NumberField } from "../../controls/NumberField";
import { Field } from "./ValueField";
import styles from "./LinkFields.module.css";

interface Props {
  effect: Effect;
  label: string;
  kind: ValueKind;
  link: Link;
  control: Control | undefined;
  /** Whether it stands below the control's own name. */
  below?: boolean;
  onPut: (link: Link) => void;
}

/** How a control drives a value: through a range and an ease, or by a table of its settings. */
export function LinkFields({ effect, label, kind, link, control, below, onPut }: Props) {
  const by = `by “${control?.label ?? link.control}”`;
  if (link.table) {
    const table = link.table;
    const options = control?.type === "toggle" ? ["false", "true"] : Object.keys(table);
    return (
      <div className={styles.linkFields}>
        {!below && <span className="soft">{by}</span>}
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
        <span className="soft">{below ? "from" : `${by}, from`}</span>
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

/** Whether a control can drive a value. */
export function drivable(control: Control, kind: ValueKind): boolean {
  if (kind.type === "asset" || kind.type === "table") return false;
  if (control.type === "toggle" || control.type === "choice") return true;
  if (kind.type === "number") return control.type === "ease" || NUMERIC.includes(control.type);
  return control.type === kind.type;
}

/** A linked value in words, if it has no fields of its own. */
export function linkWords(value: unknown, shown: unknown, control?: Control): string {
  if (!isLink(value)) return "";
  return `${plain(shown)} by “${control?.label ?? value.control}”`;
}
