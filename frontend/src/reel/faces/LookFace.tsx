import { Button, Switch } from "antd";
import type { Look, ReelChange } from "../../api/client";
import { rateOf } from "../../player/timecode";
import { titleOf, type Placed } from "../selection";
import type { FaceProps } from "./props";
import { NumberRow } from "./rows";
import { UseFace } from "./UseFace";
import styles from "./Face.module.css";

/** The faceplate of a look on a shot, and its place in the stack. */
export function LookFace(props: FaceProps & { look: Look; on: Placed }) {
  const { view, change, look, on, onSelect } = props;
  const at = on.looks.findIndex((one) => one.id === look.id);
  const set = (more: Partial<Extract<ReelChange, { do: "set-look" }>>): ReelChange => ({
    do: "set-look",
    look: look.id,
    ...more,
  });
  const rate = rateOf(view.rate);
  return (
    <UseFace
      {...props}
      uses={[look]}
      first={look.first}
      end={look.end}
      what="Remove the look"
      foot={
        on.looks.length > 1 && (
          <div className={styles.ways}>
            <Button
              size="small"
              disabled={at === 0}
              onClick={() => void change(set({ at: at - 1 }))}
            >
              Earlier in the stack
            </Button>
            <Button
              size="small"
              disabled={at === on.looks.length - 1}
              onClick={() => void change(set({ at: at + 1 }))}
            >
              Later
            </Button>
          </div>
        )
      }
    >
      <div className="control-head">
        <span>
          On {on.name}
          {on.looks.length > 1 && `, ${at + 1} of ${on.looks.length}`}
        </span>
        <Switch
          size="small"
          aria-label={`${titleOf(view, look)} on or off`}
          checked={look.on}
          onChange={(next) => void change(set({ on: next }))}
        />
      </div>
      <NumberRow
        label="Begins after"
        unit="frames"
        whole
        rate={rate}
        title="Frames of the shot before it; 0 takes in what a join shows too"
        value={look.begin}
        onCommit={(begin) => change(set({ begin: Math.max(0, begin) }))}
      />
      {look.length === null ? (
        <div className="control-head">
          <span>Length</span>
          <Button
            size="small"
            onClick={() => void change(set({ length: Math.max(1, look.end - look.first) }))}
          >
            to the end · set one
          </Button>
        </div>
      ) : (
        <NumberRow
          label="Length"
          unit="frames"
          whole
          rate={rate}
          title="0 lets it run to the end"
          value={look.length}
          onCommit={(length) => change(set({ length: Math.max(0, length) }))}
        />
      )}
      {on.looks.length > 1 && (
        <p className="soft">
          The stack:{" "}
          {on.looks.map((one, k) => (
            <span key={one.id}>
              {k > 0 && " → "}
              {one.id === look.id ? (
                <b>{titleOf(view, one)}</b>
              ) : (
                <button className="link" onClick={() => onSelect({ kind: "look", look: one.id })}>
                  {titleOf(view, one)}
                </button>
              )}
            </span>
          ))}
        </p>
      )}
    </UseFace>
  );
}
