import { Button, Checkbox } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asked } from "../../api/asked";
import type { DraftView } from "../../api/client";
import { Picture } from "../../player/Picture";
import { frameUrl, smallOf } from "../frames";
import { useBenchOf } from "../store";
import type { useDraft } from "../useDraft";
import styles from "./HistoryList.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  goTo: ReturnType<typeof useDraft>["goTo"];
}

/** All accepted changes in words; going back is a new change, so nothing is lost. */
export function HistoryList({ draft, frame, length, goTo }: Props) {
  const { set, shape } = useBenchOf("set", "shape");
  const [picks, setPicks] = useState<number[]>([]);
  const [only, setOnly] = useState(false);
  const found = useQuery(asked.history(draft.id));
  const all = found.data?.revisions ?? [];
  const stages = all.filter((one) => one.stage);
  const revisions = only && stages.length ? stages : all;
  const pair = [...picks].sort((one, two) => two - one);
  const compare = (newer: number, older: number) =>
    set({
      view: "split",
      against: `stage:${older}`,
      base: newer === draft.revision ? null : newer,
    });
  const toggle = (id: number) =>
    setPicks(picks.includes(id) ? picks.filter((one) => one !== id) : [...picks.slice(-1), id]);
  return (
    <>
      <div className={`${styles.historyHead} soft`}>
        {pair.length === 2 ? (
          <Button size="small" onClick={() => compare(pair[0]!, pair[1]!)}>
            Compare the two on the monitor
          </Button>
        ) : (
          "Tick two to compare them on the monitor; click one to go back to it, as a new change."
        )}
        {stages.length > 0 && (
          <Checkbox
            className="right"
            checked={only}
            onChange={(event) => setOnly(event.target.checked)}
          >
            named states only
          </Checkbox>
        )}
      </div>
      <ol className={styles.history}>
        {revisions.map((one) => (
          <li key={one.id} className={one.stage ? "has-stage" : ""}>
            <Checkbox
              aria-label={`Select for comparing: ${one.stage ?? one.words}`}
              checked={picks.includes(one.id)}
              onChange={() => toggle(one.id)}
            />
            {one.stage && (
              <span className={styles.stagePicture}>
                <Picture
                  url={frameUrl(draft, frame, length, smallOf(shape), { revision: one.id })}
                  alt={`State ${one.stage}`}
                  aspect={shape.width / shape.height}
                />
              </span>
            )}
            <button
              className="bare"
              disabled={one.head}
              aria-current={one.head}
              onClick={() => void goTo(one.id)}
            >
              <span className="mono soft">
                {new Date(one.made).toLocaleTimeString("en-GB", {
                  hour: "2-digit",
                  minute: "2-digit",
                })}
              </span>
              {one.stage && <b className={styles.stage}>{one.stage}</b>}
              <span className={styles.historyWords}>{one.words}</span>
              <span className="right soft">{one.head ? "current" : "go back to this"}</span>
            </button>
          </li>
        ))}
      </ol>
    </>
  );
}
