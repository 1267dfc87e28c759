import { Button } from "antd";
import type { DraftView, Lane } from "../../api/client";
import styles from "./NextSteps.module.css";
import { useBench } from "../store";
import type { ChangeDraft } from "../useDraft";

interface Props {
  draft: DraftView;
  change: ChangeDraft;
  onLane: () => void;
  onAdd: (lane: string, at: number) => void;
  /** The menu of slots and parts. */
  children: React.ReactNode;
}

/** Suggestions for the next step if only the output is open. */
export function NextSteps({ draft, change, onLane, onAdd, children }: Props) {
  const lanes = draft.effect.lanes;
  const out = lanes.at(-1)!;
  const setTab = useBench((state) => state.setTab);
  const folded = lanes.slice(0, -1).filter((lane: Lane) => lane.folded);
  const steps = out.steps?.length ?? 0;
  const ways: [string, string, () => void][] = [
    ["Add a step", "to the output; press / for the same", () => onAdd(out.id, steps)],
    ["Add a lane", "for a matte, a texture or a second picture", onLane],
    ...folded.map((lane): [string, string, () => void] => [
      `Open “${lane.name}”`,
      "to work on it before it reaches the output",
      () => void change({ do: "set-lane", lane: lane.id, folded: false }),
    ]),
    ["Compare settings", "on a sheet of pictures", () => setTab("sheet")],
    ["Set up the faceplate", "what the editor will see", () => setTab("faceplate")],
  ];
  return (
    <div className={styles.next}>
      <h2>What you can do next</h2>
      <ul>
        {ways.map(([words, more, act]) => (
          <li key={words}>
            <Button size="small" onClick={act}>
              {words}
            </Button>
            <span className="soft">{more}</span>
          </li>
        ))}
        <li>
          {children}
          <span className="soft">what the editor brings, or steps that you kept</span>
        </li>
      </ul>
    </div>
  );
}
