import { Button, Dropdown, Input, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";
import type { DraftView, Lane } from "../api/client";
import { StepCard } from "./StepCard";
import { useBench } from "./store";
import { useCosts, type Cost } from "./useCosts";
import type { EditDraft } from "./useDraft";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  edit: EditDraft;
  onAdd: (lane: string, at: number) => void;
}

/** Lanes side by side, each read from top to bottom; the output stays in sight at the right. */
export function Lanes({ draft, frame, length, edit, onAdd }: Props) {
  const lanes = draft.effect.lanes;
  const out = lanes.at(-1)!;
  const select = useBench((state) => state.select);
  const costs = useCosts(draft, frame, length);
  const addLane = () => {
    const known = new Set(lanes.map((lane) => lane.id));
    void edit({ do: "add-lane", name: "Lane" }).then((after) => {
      const made = after?.effect.lanes.find((lane) => !known.has(lane.id));
      if (made) onAdd(made.id, 0);
    });
  };
  const shared = { draft, frame, length, edit, onAdd, costs };
  return (
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
        </div>
      </div>
      <LaneColumn lane={out} index={lanes.length - 1} output {...shared} />
    </section>
  );
}

interface ColumnProps extends Props {
  lane: Lane;
  index: number;
  output?: boolean;
  costs: Map<string, Cost>;
}

function LaneColumn(props: ColumnProps) {
  const { lane, index, output, draft, edit, onAdd, costs } = props;
  const [naming, setNaming] = useState(false);
  const field = useRef<InputRef>(null);
  useEffect(() => {
    if (naming) field.current?.select();
  }, [naming]);
  const steps = lane.steps ?? [];
  const total = steps.reduce((sum, step) => sum + (costs.get(`${lane.id}.${step.id}`)?.ms ?? 0), 0);
  const rename = (name: string) => {
    setNaming(false);
    if (name.trim() && name !== lane.name)
      void edit({ do: "set-lane", lane: lane.id, name: name.trim() });
  };
  if (lane.folded && !output)
    return (
      <button
        className="bare lane-fold"
        onClick={() => void edit({ do: "set-lane", lane: lane.id, folded: false })}
        aria-label={`Unfold lane ${lane.name}`}
      >
        <b>{lane.name}</b> <span>{feeds(draft, lane) || help(draft, lane)}</span>
      </button>
    );
  const items = [
    { key: "rename", label: "Rename" },
    ...(output
      ? []
      : [
          { key: "fold", label: "Fold" },
          { key: "left", label: "Move left", disabled: index === 0 },
          {
            key: "right",
            label: "Move right",
            disabled: index >= draft.effect.lanes.length - 2,
          },
          { key: "remove", label: "Remove lane", danger: true },
        ]),
  ];
  const act = (key: string) => {
    if (key === "rename") setNaming(true);
    if (key === "fold") void edit({ do: "set-lane", lane: lane.id, folded: true });
    if (key === "left") void edit({ do: "set-lane", lane: lane.id, at: index - 1 });
    if (key === "right") void edit({ do: "set-lane", lane: lane.id, at: index + 1 });
    if (key === "remove") void edit({ do: "remove-lane", lane: lane.id });
  };
  const notes = (draft.effect.notes ?? []).filter((note) => note.lane === lane.id && !note.step);
  return (
    <section className={`lane ${output ? "out" : ""}`} aria-label={`Lane ${lane.name}`}>
      <div className="lane-head">
        {naming ? (
          <Input
            ref={field}
            size="small"
            aria-label="Name of the lane"
            defaultValue={lane.name}
            onBlur={(event) => rename(event.target.value)}
            onPressEnter={(event) => rename(event.currentTarget.value)}
          />
        ) : (
          <h2 onDoubleClick={() => setNaming(true)}>{lane.name}</h2>
        )}
        <span className="mono soft cost">{total ? `${total.toFixed(1)} ms` : ""}</span>
        <Dropdown trigger={["click"]} menu={{ items, onClick: ({ key }) => act(key) }}>
          <Button size="small" type="text" aria-label={`Lane ${lane.name}: more`}>
            ⋯
          </Button>
        </Dropdown>
      </div>
      <p className="feeds">
        {output ? "the picture the editor gets" : feeds(draft, lane) || "feeds nothing yet"}
      </p>
      {notes.map((note) => (
        <p className="lane-note" key={note.text}>
          {note.text}
        </p>
      ))}
      {steps.map((step, at) => (
        <StepCard key={step.id} {...props} step={step} at={at} last={at === steps.length - 1} />
      ))}
      <button className="bare add-here" onClick={() => onAdd(lane.id, steps.length)}>
        Add a step <span className="mono">/</span>
      </button>
    </section>
  );
}

function help(draft: DraftView, lane: Lane): string {
  return (draft.effect.slots ?? []).find((slot) => slot.id === lane.id)?.help ?? "";
}

/** Where a lane's picture goes, as a sentence. */
function feeds(draft: DraftView, lane: Lane): string {
  const found: string[] = [];
  for (const other of draft.effect.lanes)
    (other.steps ?? []).forEach((step, at) => {
      for (const [name, tap] of Object.entries(step.taps ?? {}))
        if (tap.lane === lane.id) found.push(`${other.name}, step ${at + 1}, ${name}`);
    });
  return found.length ? `feeds ${found.join("; ")}` : "";
}
