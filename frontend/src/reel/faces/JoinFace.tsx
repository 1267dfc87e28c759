import type { JoinView, ReelChange, ReelView } from "../../api/client";
import { Picture } from "../../player/Picture";
import { rateOf } from "../../player/timecode";
import { named } from "../selection";
import { longest } from "../tray/places";
import { triedAt } from "../tray/TryOn";
import type { FaceProps } from "./props";
import { ChoiceRow, NumberRow } from "./rows";
import { UseFace } from "./UseFace";
import styles from "./Face.module.css";

/** The faceplate of a join, or of several joins at once. */
export function JoinFace(props: FaceProps & { joins: readonly JoinView[] }) {
  const { view, change, onTry, joins } = props;
  const join = joins[0]!;
  const alike = joins.filter((one) => one.macro === join.macro && one.version === join.version);
  const left = named(view, join.left);
  const right = named(view, join.right);
  const length = join.end - join.first;
  const set = (more: Partial<Extract<ReelChange, { do: "set-join" }>>): ReelChange => ({
    do: "set-join",
    join: join.id,
    ...more,
  });
  const room = left && right ? 2 * Math.min(left.length, right.length) : (left ?? right)!.length;
  return (
    <UseFace
      {...props}
      uses={alike}
      first={join.first}
      end={join.end}
      what={alike.length > 1 ? "Remove these macros" : "Remove the macro"}
      foot={
        left &&
        right && (
          <Spare
            view={view}
            join={join}
            left={left.name}
            right={right.name}
            set={set}
            change={change}
          />
        )
      }
    >
      {joins.length === 1 && (
        <>
          <NumberRow
            label="Length"
            unit="frames"
            whole
            rate={rateOf(view.rate)}
            value={length}
            range={[1, Math.max(2, Math.min(room, 120))]}
            onTry={(next) => onTry(set({ length: Math.max(1, next) }))}
            onCommit={(next) => change(set({ length: Math.max(1, next) }))}
          />
          {left && right && (
            <ChoiceRow
              label="Placed"
              value={join.alignment}
              options={[
                { value: "before", label: "before the cut" },
                { value: "across", label: "across the cut" },
                { value: "after", label: "after the cut" },
              ]}
              onPick={(alignment) => void change(set({ alignment }))}
            />
          )}
          {left && right && (
            <ChoiceRow
              label="Sound"
              value={join.sound}
              options={[
                { value: "cross-fade", label: "cross-fade" },
                { value: "cut", label: "cut" },
              ]}
              onPick={(sound) => void change(set({ sound }))}
            />
          )}
        </>
      )}
    </UseFace>
  );
}

interface SpareProps {
  view: ReelView;
  join: JoinView;
  left: string;
  right: string;
  set: (more: Partial<Extract<ReelChange, { do: "set-join" }>>) => ReelChange;
  change: FaceProps["change"];
}

/** The handles of both shots, and up to three corrections if they are too short. */
function Spare({ view, join, left, right, set, change }: SpareProps) {
  const { handles } = join;
  const length = join.end - join.first;
  const fits = longest(join.alignment, handles.left_spare, handles.right_spare);
  const other = (["before", "across", "after"] as const).find(
    (way) =>
      way !== join.alignment && longest(way, handles.left_spare, handles.right_spare) >= length,
  );
  const ways = [
    ...(fits >= 1 ? [{ words: `Shorten to ${fits}`, how: set({ length: fits }) }] : []),
    ...(other ? [{ words: `Slide it ${other} the cut`, how: set({ alignment: other }) }] : []),
    { words: "Hold the edge frame", how: set({ hold: true }) },
  ];
  return (
    <>
      {handles.short && !join.hold && (
        <div className="note">
          It needs {handles.left_needs} frames of {left} after the cut and {handles.right_needs} of{" "}
          {right} before it; there are {handles.left_spare ?? "enough"} and{" "}
          {handles.right_spare ?? "enough"}. What helps:
          <div className={styles.outs}>
            {ways.map(({ words, how }) => (
              <button key={words} className="bare" onClick={() => void change(how)}>
                <Picture
                  url={triedAt(view, how, Math.max(0, join.end - 1))}
                  alt=""
                  aspect={view.width / view.height}
                />
                {words}
              </button>
            ))}
          </div>
        </div>
      )}
      <p className="soft">
        {left} has {handles.left_spare ?? "any number of"} frames to spare after the cut, {right}{" "}
        {handles.right_spare ?? "any number"} before it.
      </p>
    </>
  );
}
