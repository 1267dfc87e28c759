import { Button, Dropdown } from "antd";
import { useEffect, useRef } from "react";
import type { DraftView } from "../api/client";
import { DragGround } from "./DragGround";
import { HoverLines } from "./HoverLines";
import { LaneColumn } from "./LaneColumn";
import { PickedBar } from "./PickedBar";
import { useBench } from "./store";
import { useCosts } from "./useCosts";
import type { EditDraft } from "./useDraft";

export interface LanesProps {
  draft: DraftView;
  frame: number;
  length: number;
  edit: EditDraft;
  onAdd: (lane: string, at: number, inside?: string) => void;
  onPart: (lane: string | null, at: number, inside?: string) => void;
  onNote: (lane: string, step?: string) => void;
  onKeep: (lanes?: string[]) => void;
}

/** Lanes side by side, each read from top to bottom; the output stays in sight at the right. */
export function Lanes(props: LanesProps) {
  const { draft, frame, length, edit, onAdd, onPart } = props;
  const lanes = draft.effect.lanes;
  const out = lanes.at(-1)!;
  const select = useBench((state) => state.select);
  const costs = useCosts(draft, frame, length);
  // For whoever measures how long opening takes, by User Timing.
  useEffect(() => void performance.mark("lanes"), []);
  const addLane = () => {
    const known = new Set(lanes.map((lane) => lane.id));
    void edit({ do: "add-lane", name: "Lane" }).then((after) => {
      const made = after?.effect.lanes.find((lane) => !known.has(lane.id));
      if (made) onAdd(made.id, 0);
    });
  };
  const slots = [
    { key: "matte", label: "A slot for a matte" },
    { key: "texture", label: "A slot for a texture" },
    { key: "clip", label: "A slot for a clip" },
    { key: "part", label: "A kept part…" },
  ];
  const addMore = (key: string) => {
    if (key === "part") onPart(null, 0);
    else
      void edit({
        do: "add-slot",
        kind: key as "matte",
        name: key[0]!.toUpperCase() + key.slice(1),
      });
  };
  const held = useRef(props);
  held.current = props;
  const shared = { ...props, costs, held };
  return (
    <DragGround draft={draft} edit={edit}>
      <section className="lanes" aria-label="Lanes">
        <div
          className="lane-row"
          onClick={(event) => event.target === event.currentTarget && select(null)}
        >
          {lanes.slice(0, -1).map((lane, index) => (
            <LaneColumn key={lane.id} lane={lane} index={index} {...shared} />
          ))}
          <div className="lane-add">
            <Button size="small" onClick={addLane}>
              Add a lane
            </Button>
            <Dropdown
              trigger={["click"]}
              menu={{ items: slots, onClick: ({ key }) => addMore(key) }}
            >
              <Button size="small" aria-label="Add a slot or a part">
                …
              </Button>
            </Dropdown>
          </div>
        </div>
        <LaneColumn lane={out} index={lanes.length - 1} output {...shared} />
        <HoverLines draft={draft} />
        <PickedBar draft={draft} edit={edit} onKeep={() => props.onKeep()} />
      </section>
    </DragGround>
  );
}
