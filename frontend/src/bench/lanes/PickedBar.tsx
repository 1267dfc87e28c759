import { Button } from "antd";
import type { DraftView } from "../../api/client";
import { inOrder } from "./DragGround";
import { findStep, placeOf } from "../graph";
import { useBenchOf } from "../store";
import type { ChangeDraft } from "../useDraft";
import styles from "./PickedBar.module.css";

/** Actions for several picked steps at once. */
export function PickedBar(props: { draft: DraftView; change: ChangeDraft; onKeep: () => void }) {
  const { draft, change, onKeep } = props;
  const { picked, pick } = useBenchOf("picked", "pick");
  const steps = inOrder(draft, picked.map(placeOf));
  if (steps.length < 2) return null;
  const held = steps.flatMap((place) => findStep(draft.effect, place) ?? []);
  const oneLane = new Set(steps.map((place) => place.lane)).size === 1;
  const end = Math.max(...held.map((one) => one.at)) + 1;
  const inside = held.at(-1)?.inside?.id ?? null;
  const anyOn = held.some((one) => one.step.on);
  return (
    <div className={styles.pickedBar} role="toolbar" aria-label="Picked steps">
      <b>{steps.length} steps</b>
      <Button
        size="small"
        disabled={!oneLane}
        onClick={() =>
          void change({ do: "copy-steps", steps, to: steps[0]!.lane, at: end, inside })
        }
      >
        Duplicate
      </Button>
      <Button size="small" onClick={() => void change({ do: "turn-steps", steps, on: !anyOn })}>
        {anyOn ? "Off" : "On"}
      </Button>
      <Button
        size="small"
        disabled={!oneLane || held.some((one) => one.inside)}
        onClick={() =>
          void change({
            do: "repeat-steps",
            lane: steps[0]!.lane,
            steps: steps.map((place) => place.step),
          })
        }
      >
        Repeat together
      </Button>
      <Button size="small" disabled={!oneLane} onClick={onKeep}>
        Keep as a part
      </Button>
      <Button
        size="small"
        danger
        onClick={() => {
          pick([]);
          void change({ do: "remove-steps", steps });
        }}
      >
        Remove
      </Button>
      <Button size="small" type="text" onClick={() => pick([])} aria-label="Pick none">
        ×
      </Button>
    </div>
  );
}
