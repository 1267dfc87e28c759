import { Button } from "antd";
import { useEffect } from "react";
import type { DraftView } from "../../api/client";
import { DragGround } from "./DragGround";
import { HoverLines } from "./HoverLines";
import { LaneColumn } from "./LaneColumn";
import { PickedBar } from "./PickedBar";
import { useBench } from "../store";
import { NextSteps } from "./NextSteps";
import type { LanesProps } from "./props";
import { MenuButton } from "../../shell/MenuButton";
import styles from "./Lanes.module.css";

/** Whether no lane is open beside the output. */
export const noneOpen = (draft: DraftView) =>
  draft.effect.lanes.slice(0, -1).every((lane) => lane.folded);

/**
 * Lanes side by side, each read from top to bottom; the output stays visible at the right. Parts
 * that follow the playhead are components of their own, so the lanes are not drawn again for every
 * frame.
 */
export function Lanes(props: LanesProps) {
  const { draft, change, onAdd, onPart } = props;
  const lanes = draft.effect.lanes;
  const out = lanes.at(-1)!;
  const select = useBench((state) => state.select);
  // For measuring the time of opening, by User Timing.
  useEffect(() => void performance.mark("lanes"), []);
  const addLane = () => {
    const known = new Set(lanes.map((lane) => lane.id));
    void change({ do: "add-lane", name: "Lane" }).then((after) => {
      const made = after?.effect.lanes.find((lane) => !known.has(lane.id));
      if (made) onAdd(made.id, 0);
    });
  };
  const slots = [
    { key: "matte", label: "A slot for a matte" },
    { key: "texture", label: "A slot for a texture" },
    { key: "clip", label: "A slot for a clip" },
    { key: "part", label: "Insert a part…" },
  ];
  const addMore = (key: string) => {
    if (key === "part") onPart(null, 0);
    else
      void change({
        do: "add-slot",
        kind: key as "matte",
        name: key[0]!.toUpperCase() + key.slice(1),
      });
  };
  const more = { items: slots, onClick: ({ key }: { key: string }) => addMore(key) };
  return (
    <DragGround draft={draft} change={change}>
      <section className={styles.lanes} aria-label="Lanes">
        {/* Clicking the ground clears the selection; on the keyboard Escape does. */}
        {/* eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions */}
        <div
          className={styles.laneRow}
          onClick={(event) => event.target === event.currentTarget && select(null)}
        >
          {lanes.slice(0, -1).map((lane, index) => (
            <LaneColumn key={lane.id} lane={lane} index={index} {...props} />
          ))}
          {noneOpen(draft) ? (
            <NextSteps draft={draft} change={change} onLane={addLane} onAdd={onAdd}>
              <MenuButton menu={more}>
                <Button size="small">Add a slot or a part</Button>
              </MenuButton>
            </NextSteps>
          ) : (
            <div className={styles.laneAdd}>
              <Button size="small" onClick={addLane}>
                Add a lane
              </Button>
              <MenuButton menu={more}>
                <Button size="small" aria-label="Add a slot or a part">
                  …
                </Button>
              </MenuButton>
            </div>
          )}
        </div>
        <LaneColumn lane={out} index={lanes.length - 1} output {...props} />
        <HoverLines draft={draft} />
        <PickedBar draft={draft} change={change} onKeep={() => props.onKeep()} />
      </section>
    </DragGround>
  );
}
