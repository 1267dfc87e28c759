import { Input, Modal, type MenuProps } from "antd";
import { useState } from "react";
import type { Lane, Step } from "../../api/client";
import { inOrder, refusal } from "./DragGround";
import { placeOf } from "../graph";
import { MoreMenu } from "../../shell/MenuButton";
import type { LanesProps } from "./props";
import { benchStore, useBench } from "../store";
import { useKinds } from "../useDraft";

interface Props extends LanesProps {
  lane: Lane;
  step: Step;
  at: number;
  last: boolean;
  inside: Step | null;
  name: string;
}

/** All actions of a step, for people who do not drag. */
export function CardMenu(props: Props) {
  const { draft, change, lane, step, at, last, inside, name } = props;
  const { kindOf } = useKinds();
  const [items, setItems] = useState<NonNullable<MenuProps["items"]>>([]);
  const select = useBench((state) => state.select);
  const [naming, setNaming] = useState<string | null>(null);
  const place = { lane: lane.id, step: step.id };
  const within = inside?.id ?? null;
  const move = (to: string, where: number, into: string | null) =>
    void change({ do: "move-steps", steps: [place], to, at: where, inside: into });
  const others = () => draft.effect.lanes.filter((one) => one.id !== lane.id && !one.folded);
  /** Finds out, when the menu opens, why the step cannot go to each lane. */
  const ask = async () => {
    const reasons = await Promise.all(
      others().map(async (one) => {
        const spot = { lane: one.id, at: (one.steps ?? []).length, inside: null };
        return [one.id, await refusal(draft, [place], spot)] as const;
      }),
    );
    setItems(offered(new Map(reasons)));
  };
  const offered = (reasons = new Map<string, string | null>()): typeof items => {
    return [
      { key: "below", label: "Add a step below" },
      { key: "part", label: "Insert a part below…" },
      { key: "name", label: "Name it" },
      { key: "note", label: "Write a note" },
      { key: "copy", label: "Duplicate" },
      { key: "on", label: step.on ? "Turn off" : "Turn on" },
      { key: "up", label: "Move up", disabled: at === 0 },
      { key: "down", label: "Move down", disabled: last },
      {
        key: "lanes",
        label: "Move to lane",
        disabled: !others().length,
        children: others().map((one) => {
          const reason = reasons.get(one.id) ?? null;
          return {
            key: `to:${one.id}`,
            label: one.name,
            disabled: reason !== null,
            ...(reason ? { title: reason } : {}),
          };
        }),
      },
      ...(kindOf(step)?.holds
        ? [{ key: "release", label: "Take the repeat away, keep its steps" }]
        : within
          ? [{ key: "out", label: "Take it out of the repeat" }]
          : [{ key: "repeat", label: "Repeat it" }]),
      ...(step.macro ? [{ key: "open", label: "Open it up into its lanes" }] : []),
      { key: "keep", label: "Keep as a part…" },
      { key: "remove", label: "Remove", danger: true },
    ];
  };
  const act = (key: string) => {
    const { onAdd, onNote, onPart, onKeep } = props;
    if (key === "below") onAdd(lane.id, at + 1, within ?? undefined);
    if (key === "part") onPart(lane.id, at + 1, within ?? undefined);
    if (key === "name") setNaming(step.name ?? "");
    if (key === "note") onNote(lane.id, step.id);
    if (key === "copy")
      void change({ do: "copy-steps", steps: [place], to: lane.id, at: at + 1, inside: within });
    if (key === "on") void change({ do: "turn-steps", steps: [place], on: !step.on });
    if (key === "up") move(lane.id, at - 1, within);
    if (key === "down") move(lane.id, at + 1, within);
    if (key === "repeat") void change({ do: "repeat-steps", lane: lane.id, steps: [step.id] });
    if (key === "open") void change({ do: "open-macro", ...place });
    if (key === "release") void change({ do: "release-steps", ...place });
    if (key === "out")
      move(lane.id, (lane.steps ?? []).findIndex((one) => one.id === within) + 1, null);
    if (key === "keep") {
      const { picked, pick } = benchStore.getState();
      const kept = inOrder(draft, picked.map(placeOf));
      if (!kept.some((one) => one.lane === lane.id && one.step === step.id))
        pick([`${lane.id}.${step.id}`]);
      onKeep();
    }
    if (key === "remove") {
      select(null);
      void change({ do: "remove-steps", steps: [place] });
    }
    if (key.startsWith("to:")) move(key.slice(3), 10000, null);
  };
  return (
    <>
      <MoreMenu
        label={`${name}: more`}
        items={items}
        onPick={act}
        onOpen={() => {
          setItems(offered());
          void ask();
        }}
      />
      {naming !== null && (
        <Modal
          open
          title="Name the step"
          okText="Name it"
          onCancel={() => setNaming(null)}
          onOk={() => {
            void change({ do: "name-step", ...place, name: naming.trim() });
            setNaming(null);
          }}
        >
          <Input
            aria-label="Name of the step"
            autoFocus
            maxLength={120}
            placeholder={kindOf(step)?.label ?? ""}
            value={naming}
            onChange={(event) => setNaming(event.target.value)}
          />
        </Modal>
      )}
    </>
  );
}
