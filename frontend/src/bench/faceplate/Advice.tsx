import { Input, Switch } from "antd";
import type { Control } from "../../api/client";
import { NumberField } from "../../controls/NumberField";
import type { SetControl } from "./ControlEdit";
import { Span } from "./Span";
import styles from "./Faceplate.module.css";

interface Props {
  control: Control;
  onSet: SetControl;
}

/** What the maker knows about a number: where it is good, and beyond which edge it is not. */
export function Advice({ control, onSet }: Props) {
  const { label, good, edge } = control;
  const [low, high] = (control.slider ?? [0, 1]) as [number, number];
  const third = (high - low) / 3;
  const side = edge && edge.below != null && edge.above == null ? "below" : "above";
  const at = edge?.[side] ?? high;
  const put = (more: Partial<NonNullable<Control["edge"]>>) =>
    onSet({ edge: { reason: edge?.reason ?? "", ...edge, ...more } });
  const neat = (value: number) => Number(value.toPrecision(3));
  return (
    <>
      <span className={styles.line}>
        <span>good zone</span>
        <Switch
          size="small"
          aria-label={`${label}: good zone`}
          checked={Boolean(good)}
          onChange={(on) =>
            void onSet({ good: on ? [neat(low + third), neat(high - third)] : null })
          }
        />
        {good && (
          <Span
            label={`${label}: good`}
            span={good as [number, number]}
            onCommit={(next) => onSet({ good: next })}
          />
        )}
      </span>
      <span className={styles.line}>
        <span>edge</span>
        <Switch
          size="small"
          aria-label={`${label}: edge`}
          checked={Boolean(edge)}
          onChange={(on) =>
            void onSet({
              edge: on ? { above: neat(high - third), reason: "Look closely beyond this." } : null,
            })
          }
        />
        {edge && (
          <>
            <button
              className={styles.pick}
              aria-label={`${label}: the edge is ${side}; change it`}
              onClick={() =>
                put({ above: null, below: null, [side === "above" ? "below" : "above"]: at })
              }
            >
              {side}
            </button>
            <NumberField
              label={`${label}: edge at`}
              value={at}
              onCommit={(value) => put({ [side]: value })}
            />
            <Input
              size="small"
              aria-label={`${label}: reason of the edge`}
              key={edge.reason}
              defaultValue={edge.reason}
              onBlur={(event) => {
                const reason = event.target.value.trim();
                if (reason && reason !== edge.reason) void put({ reason });
              }}
              onPressEnter={(event) => event.currentTarget.blur()}
            />
          </>
        )}
      </span>
    </>
  );
}
