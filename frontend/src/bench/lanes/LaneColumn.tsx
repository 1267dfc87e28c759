import { useDraggable } from "@dnd-kit/core";
import { Input, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";
import type { DraftView, Lane } from "../../api/client";
import { inputName } from "./cardWords";
import { DropGap, LaneGap } from "./DragGround";
import { everyStep } from "../graph";
import type { LanesProps } from "./props";
import { NotesOf } from "./Notes";
import { MoreMenu } from "../../shell/MenuButton";
import { StepCard } from "./StepCard";
import { useLaneCost } from "./useCosts";
import styles from "./LaneColumn.module.css";
import stepCardStyles from "./StepCard.module.css";

interface Props extends LanesProps {
  lane: Lane;
  index: number;
  output?: boolean;
}

/** One lane: its head, its cards from top to bottom, and a place for the next step. */
export function LaneColumn(props: Props) {
  const { lane, index, output, draft, change, onAdd, onPart, onNote } = props;
  const [naming, setNaming] = useState(false);
  const field = useRef<InputRef>(null);
  useEffect(() => {
    if (naming) field.current?.select();
  }, [naming]);
  const { setNodeRef, listeners } = useDraggable({
    id: `lane:${lane.id}`,
    data: { lane: lane.id },
    disabled: output || naming,
  });
  const steps = lane.steps ?? [];
  const total = useLaneCost(lane);
  const rename = (name: string) => {
    setNaming(false);
    if (name.trim() && name !== lane.name)
      void change({ do: "set-lane", lane: lane.id, name: name.trim() });
  };
  if (lane.folded && !output)
    return (
      <>
        <LaneGap at={index} />
        <button
          className={`bare ${styles.laneFold}`}
          data-fold
          data-lane={lane.id}
          onClick={() => void change({ do: "set-lane", lane: lane.id, folded: false })}
        >
          <span className="visually-hidden">Unfold lane </span>
          <b>{lane.name}</b>{" "}
          <span>{usedBy(draft, lane).replaceAll(/[“”]/g, "") || help(draft, lane)}</span>
        </button>
      </>
    );
  const last = draft.effect.lanes.length - 2;
  const slot = (draft.effect.slots ?? []).find((one) => one.id === lane.id);
  const items = [
    { key: "rename", label: "Rename" },
    { key: "note", label: "Write a note" },
    { key: "copy", label: "Duplicate" },
    { key: "keep", label: "Keep as a part…" },
    { key: "part", label: "Insert a part…" },
    ...(output
      ? []
      : [
          { key: "fold", label: "Fold" },
          { key: "left", label: "Move left", disabled: index === 0 },
          { key: "right", label: "Move right", disabled: index >= last },
          { key: "remove", label: slot ? "Remove lane and slot" : "Remove lane", danger: true },
        ]),
  ];
  const act = (key: string) => {
    if (key === "rename") setNaming(true);
    if (key === "note") onNote(lane.id);
    if (key === "copy") void change({ do: "copy-lane", lane: lane.id });
    if (key === "keep") props.onKeep([lane.id]);
    if (key === "part") onPart(lane.id, steps.length);
    if (key === "fold") void change({ do: "set-lane", lane: lane.id, folded: true });
    if (key === "left") void change({ do: "set-lane", lane: lane.id, at: index - 1 });
    if (key === "right") void change({ do: "set-lane", lane: lane.id, at: index + 1 });
    if (key === "remove") {
      const own = slot && ["matte", "texture"].includes(slot.kind ?? "clip");
      const gone = { do: "remove-lane" as const, lane: lane.id };
      void change(
        own ? { do: "several", changes: [gone, { do: "remove-slot", slot: slot.id }] } : gone,
      );
    }
  };
  return (
    <>
      {!output && <LaneGap at={index} />}
      <section
        className={`${styles.lane} ${output ? styles.out : ""}`}
        aria-label={`Lane ${lane.name}`}
        data-lane={lane.id}
      >
        <div className={styles.laneHead} ref={setNodeRef}>
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
            <h2
              onDoubleClick={() => setNaming(true)}
              title={`${lane.name}: double-click to rename${output ? "" : ", drag to move"}`}
              {...listeners}
            >
              {lane.name}
            </h2>
          )}
          <span className={`mono soft ${styles.cost}`}>
            {total ? `${total.toFixed(1)} ms` : ""}
          </span>
          <MoreMenu label={`Lane ${lane.name}: more`} items={items} onPick={act} />
        </div>
        <p className={styles.feeds}>
          {output ? "the picture the editor gets" : usedBy(draft, lane) || "not used yet"}
        </p>
        {output && <NotesOf draft={draft} onNote={onNote} />}
        <NotesOf draft={draft} lane={lane.id} onNote={onNote} />
        {steps.map((step, at) => (
          <div key={step.id}>
            <DropGap spot={{ lane: lane.id, at, inside: null }} />
            <StepCard {...props} step={step} at={at} last={at === steps.length - 1} inside={null} />
          </div>
        ))}
        <DropGap spot={{ lane: lane.id, at: steps.length, inside: null }} end>
          <button
            className={`bare ${stepCardStyles.addHere}`}
            onClick={() => onAdd(lane.id, steps.length)}
          >
            Add a step <span className="mono">/</span>
          </button>
        </DropGap>
      </section>
    </>
  );
}

function help(draft: DraftView, lane: Lane): string {
  return (draft.effect.slots ?? []).find((slot) => slot.id === lane.id)?.help ?? "";
}

/** The steps that use a lane's picture, as a sentence. */
function usedBy(draft: DraftView, lane: Lane): string {
  const found: string[] = [];
  for (const other of draft.effect.lanes)
    for (const { step, at } of everyStep(other))
      for (const [name, input] of Object.entries(step.inputs ?? {}))
        if (input.lane === lane.id)
          found.push(`${other.name}, step ${at + 1}, as “${inputName(name)}”`);
  return found.length ? `used by ${found.join("; ")}` : "";
}
