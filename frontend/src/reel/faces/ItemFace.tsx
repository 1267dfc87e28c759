import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import type { Item, ReelChange } from "../../api/client";
import { rateOf } from "../../player/timecode";
import { asked } from "../../api/asked";
import type { FaceProps } from "./props";
import { ChoiceRow, FrameRows, NameRow, NumberRow } from "./rows";
import { SourceRows } from "./SourceRows";
import { UseFace } from "./UseFace";
import styles from "./Face.module.css";

type SetItem = Extract<ReelChange, { do: "set-item" }>;

/** The controls of an item on a row above: its times, its place, its blending. */
export function ItemFace(props: FaceProps & { item: Item }) {
  const { view, change, item, onSelect } = props;
  if (item.use)
    return (
      <UseFace
        {...props}
        uses={[item.use]}
        first={item.begins}
        end={item.begins + item.length}
        what="Take it off"
        foot={<Laying {...props} />}
      >
        <Times {...props} />
      </UseFace>
    );
  return (
    <section className={styles.face} aria-label="Faceplate">
      <h2>{item.name}</h2>
      <Times {...props} />
      <Laying {...props} />
      {item.source && (
        <>
          <FrameRows
            rate={rateOf(view.rate)}
            rows={[
              [
                "From frame",
                item.source.start,
                (start) =>
                  void change({
                    do: "set-shot",
                    shot: item.id,
                    ripple: true,
                    start: Math.max(0, start),
                  }),
              ],
            ]}
          />
          <SourceRows {...props} names={[item.id]} source={item.source} />
        </>
      )}
      <div className={styles.ways}>
        <Button
          size="small"
          onClick={() => {
            void change({ do: "remove", names: [item.id], close: true });
            onSelect(null);
          }}
        >
          Take it off
        </Button>
      </div>
    </section>
  );
}

/** Its name, and when it is seen. */
function Times({ view, change, item }: FaceProps & { item: Item }) {
  const save = (more: Partial<SetItem>) => change({ do: "set-item", item: item.id, ...more });
  return (
    <>
      <NameRow label="Name of the item" name={item.name} onCommit={(name) => save({ name })} />
      <FrameRows
        rate={rateOf(view.rate)}
        rows={[
          ["Begins at", item.begins, (frame) => save({ frame: Math.max(0, frame) })],
          ["Length", item.length, (length) => save({ length: Math.max(1, length) })],
        ]}
      />
    </>
  );
}

/** Its blending with the picture below, and its place in the frame. */
function Laying({ change, onTry, item }: FaceProps & { item: Item }) {
  const set = (more: Partial<SetItem>): ReelChange => ({
    do: "set-item",
    item: item.id,
    ...more,
  });
  const save = (more: Parameters<typeof set>[0]) => change(set(more));
  const tries = (more: Parameters<typeof set>[0]) => onTry(set(more));
  const steps = useQuery(asked.steps());
  const blend = steps.data?.kinds.find((one) => one.kind === "blend");
  const modes = blend?.values.find((one) => one.name === "mode")?.options ?? [item.mode];
  const placed = item.kind !== "look";
  const at = (k: 0 | 1, value: number): [number, number] =>
    k ? [item.position[0], value] : [value, item.position[1]];
  return (
    <>
      <NumberRow
        label="Opacity"
        value={item.opacity}
        range={[0, 1]}
        onTry={(opacity) => tries({ opacity })}
        onCommit={(opacity) => save({ opacity })}
      />
      <ChoiceRow
        label="Laid over by"
        value={item.mode}
        options={modes.map((mode) => ({ value: mode, label: mode }))}
        onPick={(mode) => save({ mode: mode as NonNullable<SetItem["mode"]> })}
      />
      {placed && (
        <>
          {(["Across", "Down"] as const).map((label, k) => (
            <NumberRow
              key={label}
              label={label}
              title="Where its middle lies, in the frame from 0 to 1"
              value={item.position[k]!}
              range={[0, 1]}
              onTry={(value) => tries({ position: at(k as 0 | 1, value) })}
              onCommit={(value) => save({ position: at(k as 0 | 1, value) })}
            />
          ))}
          <NumberRow
            label="Scale"
            value={item.scale}
            range={[0, 2]}
            onTry={(scale) => tries({ scale })}
            onCommit={(scale) => save({ scale })}
          />
        </>
      )}
    </>
  );
}
