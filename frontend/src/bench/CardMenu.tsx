import { Button, Dropdown, Input, Modal, type MenuProps } from "antd";
import { memo, useState, type RefObject } from "react";
import type { Lane, Step } from "../api/client";
import { inOrder } from "./DragGround";
import { placeOf, refusal } from "./graph";
import type { LanesProps } from "./Lanes";
import { useBench } from "./store";
import { useKinds } from "./useDraft";

interface Props {
  lane: Lane;
  step: Step;
  at: number;
  last: boolean;
  inside: Step | null;
  name: string;
  /** The lanes as they are when the menu is opened: cards do not draw it anew for every edit. */
  held: RefObject<LanesProps>;
}

/** All that can be done to a step, for those who do not drag. */
export const CardMenu = memo(function CardMenu(props: Props) {
  const { lane, step, at, last, inside, name, held } = props;
  const { kindOf } = useKinds();
  const [items, setItems] = useState<NonNullable<MenuProps["items"]>>([]);
  const select = useBench((state) => state.select);
  const [naming, setNaming] = useState<string | null>(null);
  const place = { lane: lane.id, step: step.id };
  const within = inside?.id ?? null;
  const move = (to: string, where: number, into: string | null) =>
    void held.current.edit({ do: "move-steps", steps: [place], to, at: where, inside: into });
  const offered = (): typeof items => {
    const { effect } = held.current.draft;
    const others = effect.lanes.filter((one) => one.id !== lane.id && !one.folded);
    return [
      { key: "below", label: "Add a step below" },
      { key: "part", label: "Put in a kept part below…" },
      { key: "name", label: "Name it" },
      { key: "note", label: "Write a note" },
      { key: "copy", label: "Duplicate" },
      { key: "on", label: step.on ? "Take out (off)" : "Put back in (on)" },
      { key: "up", label: "Move up", disabled: at === 0 },
      { key: "down", label: "Move down", disabled: last },
      {
        key: "lanes",
        label: "Move to lane",
        disabled: !others.length,
        children: others.map((one) => {
          const spot = { lane: one.id, at: (one.steps ?? []).length, inside: null };
          const reason = refusal(effect, [place], spot, kindOf);
          return {
            key: `to:${one.id}`,
            label: one.name,
            disabled: reason !== null,
            ...(reason ? { title: reason } : {}),
          };
        }),
      },
      ...(step.kind === "repeat"
        ? [{ key: "release", label: "Take the repeat away, keep its steps" }]
        : within
          ? [{ key: "out", label: "Take it out of the repeat" }]
          : [{ key: "repeat", label: "Repeat it" }]),
      { key: "keep", label: "Keep as a part…" },
      { key: "remove", label: "Remove", danger: true },
    ];
  };
  const act = (key: string) => {
    const { draft, edit, onAdd, onNote, onPart, onKeep } = held.current;
    if (key === "below") onAdd(lane.id, at + 1, within ?? undefined);
    if (key === "part") onPart(lane.id, at + 1, within ?? undefined);
    if (key === "name") setNaming(step.name ?? "");
    if (key === "note") onNote(lane.id, step.id);
    if (key === "copy")
      void edit({ do: "copy-steps", steps: [place], to: lane.id, at: at + 1, inside: within });
    if (key === "on") void edit({ do: "set-step", ...place, on: !step.on });
    if (key === "up") move(lane.id, at - 1, within);
    if (key === "down") move(lane.id, at + 1, within);
    if (key === "repeat") void edit({ do: "repeat-steps", lane: lane.id, steps: [step.id] });
    if (key === "release") void edit({ do: "release-steps", ...place });
    if (key === "out")
      move(lane.id, (lane.steps ?? []).findIndex((one) => one.id === within) + 1, null);
    if (key === "keep") {
      const { picked, pick } = useBench.getState();
      const kept = inOrder(draft, picked.map(placeOf));
      if (!kept.some((one) => one.lane === lane.id && one.step === step.id))
        pick([`${lane.id}.${step.id}`]);
      onKeep();
    }
    if (key === "remove") {
      select(null);
      void edit({ do: "remove-step", ...place });
    }
    if (key.startsWith("to:")) move(key.slice(3), 10000, null);
  };
  return (
    <>
      <Dropdown
        trigger={["click"]}
        menu={{ items, onClick: ({ key }) => act(key) }}
        onOpenChange={(open) => open && setItems(offered())}
      >
        <Button size="small" type="text" aria-label={`${name}: more`}>
          ⋯
        </Button>
      </Dropdown>
      {naming !== null && (
        <Modal
          open
          title="Name the step"
          okText="Name it"
          onCancel={() => setNaming(null)}
          onOk={() => {
            void held.current.edit({ do: "set-step", ...place, name: naming.trim() });
            setNaming(null);
          }}
        >
          <Input
            aria-label="Name of the step"
            autoFocus
            maxLength={120}
            placeholder={kindOf(step.kind)?.label ?? ""}
            value={naming}
            onChange={(event) => setNaming(event.target.value)}
          />
        </Modal>
      )}
    </>
  );
});
