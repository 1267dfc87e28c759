import { Button, Checkbox, Select } from "antd";
import { plain, type Ease, type Key, type Keys } from "../../api/values";
import { EaseField } from "../../controls/EaseField";
import { readTime } from "../../controls/number";
import { NumberField } from "../../controls/NumberField";
import { anchored, sorted } from "./keys";
import styles from "./KeyTable.module.css";

interface Props {
  picks: number[];
  onPick: (picks: number[]) => void;
  keys: Keys;
  /** x or y of a point; "band" for a value that is not a number. */
  part: string;
  length: number;
  rate: number;
  onKeys: (keys: Keys) => void;
}

/** Each anchor, in the row and in its list. */
const ANCHORS = [
  ["share", "stretches", "stretches with the length"],
  ["start", "from start", "from the start"],
  ["end", "from end", "from the end"],
] as const;

/** The keys of a value as numbers to type. */
export function KeyTable({ picks, onPick, keys, part, length, rate, onKeys }: Props) {
  const put = (at: number, more: Partial<Key>) =>
    onKeys({
      keys: sorted(
        keys.keys.map((key, index) => (index === at ? { ...key, ...more } : key)),
        length,
        rate,
      ),
    });
  return (
    <table className={styles.keyTable}>
      <thead>
        <tr>
          <th aria-label="picked" />
          <th>time</th>
          <th>anchored</th>
          <th>value</th>
          <th>then</th>
          <th aria-label="remove" />
        </tr>
      </thead>
      <tbody>
        {keys.keys.map((key, at) => (
          <tr key={at}>
            <td>
              <Checkbox
                aria-label={`Pick key ${at + 1}`}
                checked={picks.includes(at)}
                onChange={(event) =>
                  onPick(
                    event.target.checked
                      ? [...picks, at].sort((a, b) => a - b)
                      : picks.filter((one) => one !== at),
                  )
                }
              />
            </td>
            <td>
              <NumberField
                label={`Key ${at + 1}: time`}
                value={key.anchor && key.anchor !== "share" ? key.time : key.time * 100}
                read={(typed) => {
                  const anchor = key.anchor ?? "share";
                  const span = (length - 1) / rate;
                  const found = readTime(typed, { anchor, now: key.time, span, rate });
                  return found !== null && anchor === "share" ? found * 100 : found;
                }}
                onCommit={(time) =>
                  put(at, { time: key.anchor && key.anchor !== "share" ? time : time / 100 })
                }
              />
              <span className="mono soft">{(key.anchor ?? "share") === "share" ? "%" : "s"}</span>
            </td>
            <td>
              <Select
                size="small"
                variant="borderless"
                aria-label={`Key ${at + 1}: anchored to`}
                value={key.anchor ?? "share"}
                popupMatchSelectWidth={false}
                options={ANCHORS.map(([value, , label]) => ({ value, label }))}
                labelRender={({ value }) => ANCHORS.find(([one]) => one === value)?.[1]}
                onChange={(anchor) => put(at, anchored(key, anchor, length, rate))}
              />
            </td>
            <td>
              {part === "band" ? (
                <span className="mono">
                  {typeof key.value === "string" && key.value.startsWith("#") && (
                    <span className="swatch" style={{ background: key.value }} />
                  )}
                  {plain(key.value)}
                </span>
              ) : (
                <NumberField
                  label={`Key ${at + 1}: value`}
                  value={partOf(key.value, part)}
                  onCommit={(value) => put(at, { value: withPart(key.value, part, value) })}
                />
              )}
            </td>
            <td>
              {at < keys.keys.length - 1 && (
                <EaseField
                  label={`Key ${at + 1}`}
                  value={(key.ease ?? "linear") as Ease}
                  onCommit={(ease) => {
                    // With several keys ticked, the ease is set for all of them.
                    const all = picks.length > 1 && picks.includes(at) ? picks : [at];
                    const eased = keys.keys.map((one, k) =>
                      all.includes(k) ? { ...one, ease } : one,
                    );
                    onKeys({ keys: eased });
                  }}
                />
              )}
            </td>
            <td>
              <Button
                size="small"
                type="text"
                disabled={keys.keys.length < 2}
                aria-label={`Remove key ${at + 1}`}
                onClick={() => onKeys({ keys: keys.keys.filter((_, index) => index !== at) })}
              >
                ×
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The number of a value, or of a point's part. */
function partOf(value: unknown, part: string): number {
  return Array.isArray(value) ? Number(value[part === "y" ? 1 : 0]) : Number(value);
}

function withPart(value: unknown, part: string, next: number): unknown {
  if (!Array.isArray(value)) return next;
  return value.map((one: number, k) => (k === (part === "y" ? 1 : 0) ? next : one));
}
