import { useDraggable } from "@dnd-kit/core";
import { Button, Switch } from "antd";
import { useState } from "react";
import type { DraftView, Lane, Step, StepKind } from "../../api/client";
import { matters, valueOf } from "../../api/values";
import { Picture } from "../../player/Picture";
import { MacroVersion } from "../values/MacroVersion";
import { CardMenu } from "./CardMenu";
import { costWords, inputName, offered, summary, inputWords } from "./cardWords";
import { DropGap } from "./DragGround";
import { cardOf, frameUrl } from "../frames";
import { GradeFile } from "../values/GradeFile";
import { everyStep } from "../graph";
import type { LanesProps } from "./props";
import { NotesOf } from "./Notes";
import { PassPicker, usePasses } from "../values/Passes";
import { StandIn } from "../values/StandIn";
import { samePlace, benchStore, useBench, useSettledFrame, type Place } from "../store";
import { InputPicker } from "../values/InputPicker";
import { useCost } from "./useCosts";
import { useInSight } from "./useInSight";
import { useKinds, type ChangeDraft } from "../useDraft";
import { ValueRow } from "../values/ValueRow";
import styles from "./StepCard.module.css";

interface Props extends LanesProps {
  lane: Lane;
  step: Step;
  at: number;
  last: boolean;
  /** The repeat that holds it. */
  inside: Step | null;
}

/** A step with its own live picture; selecting it shows its values in place. */
export function StepCard(props: Props) {
  const { draft, lane, step, at, inside } = props;
  const { length, change, onAdd, onNote } = props;
  const { kindOf } = useKinds();
  const kind = kindOf(step);
  const [picking, setPicking] = useState<string | null>(null);
  const settled = useSettledFrame(length, 90);
  const cost = useCost(lane.id, step);
  const place = { lane: lane.id, step: step.id };
  const where = `${lane.id}.${step.id}`;
  const shape = useBench((state) => state.shape);
  const mine = useBench((state) => samePlace(state.selected, lane.id, step.id));
  const isPicked = useBench((state) => state.picked.includes(where));
  const { set } = benchStore.getState();
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: where, data: { place } });
  const pass = usePasses(lane.id, inside);
  const card = useInSight<HTMLElement>(mine);
  if (!kind) return null;
  const open = draft.findings.filter((one) => one.where.startsWith(where));
  const hints = draft.hints.filter((one) => one.where === where);
  const name = step.name || kind.label;
  const inner = step.steps ?? [];
  const choose = (event: React.MouseEvent | React.KeyboardEvent) => {
    const { picked, pick, selected, select } = benchStore.getState();
    if (event.ctrlKey || event.metaKey) {
      const kept = picked.filter((one) => one !== where);
      pick(kept.length === picked.length ? [...picked, where] : kept);
    } else if (event.shiftKey && selected?.lane === lane.id) {
      const order = everyStep(lane).map((one) => one.step.id);
      const [from, to] = [order.indexOf(selected.step), order.indexOf(step.id)].sort(
        (one, two) => one - two,
      );
      pick(order.slice(from, to! + 1).map((one) => `${lane.id}.${one}`));
    } else select(mine ? null : place);
  };

  return (
    <article
      ref={card}
      className={`${styles.step} ${mine ? "selected" : ""} ${isPicked ? "picked" : ""} ${
        step.on ? "" : styles.off
      } ${isDragging ? styles.dragging : ""} ${kind.holds ? styles.repeat : ""}`}
      aria-label={`${name} in ${lane.name}`}
      data-place={where}
      onPointerOver={(event) => {
        event.stopPropagation();
        set({ hovered: where });
      }}
      onPointerLeave={() => set({ hovered: null })}
    >
      <div className={styles.stepHead} ref={setNodeRef}>
        <button
          className={`bare ${styles.stepName}`}
          aria-expanded={mine}
          onClick={choose}
          onFocus={() => set({ hovered: where })}
          onKeyDown={(event) => {
            if (event.key === "Enter" && (event.ctrlKey || event.metaKey || event.shiftKey)) {
              event.preventDefault();
              choose(event);
            }
            if (event.altKey && event.key.startsWith("Arrow")) {
              event.preventDefault();
              event.stopPropagation();
              const by = event.key === "ArrowUp" ? -1 : event.key === "ArrowDown" ? 1 : 0;
              if (by)
                void change({
                  do: "move-steps",
                  steps: [place],
                  to: lane.id,
                  at: Math.max(0, at + by),
                  inside: inside?.id ?? null,
                });
            }
          }}
          title="Ctrl-click, or Ctrl+Enter, picks several; drag to move"
          {...listeners}
        >
          {name}
          {!step.on && <span className="soft"> · off</span>}
        </button>
        <span className="mono soft" title={costWords(cost)}>
          {cost === undefined ? "" : cost.ms.toFixed(cost.ms < 99.95 ? 1 : 0)}
        </span>
        <OnSwitch lane={lane.id} step={step.id} name={name} on={step.on ?? true} change={change} />
        <CardMenu {...props} name={name} />
      </div>
      <button
        className={`bare ${styles.stepPicture}`}
        tabIndex={-1}
        aria-hidden
        onClick={choose}
        {...listeners}
      >
        <Picture
          url={frameUrl(draft, settled, length, cardOf(shape), { step: place, pass })}
          alt={`What ${name} gives`}
          turn={mine ? "first" : "shown"}
        />
      </button>
      <NotesOf draft={draft} lane={lane.id} step={step.id} onNote={onNote} />
      {offered(kind.inputs, step.inputs ?? {}).map((input) => {
        const source = step.inputs?.[input.name];
        if (!source && input.optional && !mine) return null;
        return (
          <button
            key={input.name}
            className={`bare ${styles.inputChip} ${source || input.optional ? "" : styles.open}`}
            title={input.help}
            onClick={() => setPicking(input.name)}
          >
            <b>{inputName(input.name)}:</b>{" "}
            {source ? inputWords(draft.effect, step, input.name, kind) : "choose a source"}
          </button>
        );
      })}
      {open
        .filter(
          (one) =>
            !one.where.slice(where.length + 1) ||
            !kind.inputs.some((input) => one.where.endsWith(`.${input.name}`)),
        )
        .map((one) => (
          <p key={one.sentence} className={`${styles.stepOpen} bad`}>
            {one.sentence}
          </p>
        ))}
      {hints.map((one) => (
        <div key={one.sentence} className="note">
          {one.sentence}{" "}
          <Button size="small" onClick={() => void change(one.fix)}>
            {one.fix_words}
          </Button>
        </div>
      ))}
      {mine ? (
        <div className={styles.values}>
          {step.macro && <MacroVersion place={place} step={step} change={change} />}
          {step.kind === "balance" && (
            <GradeFile
              draft={draft}
              place={place}
              frame={settled}
              length={length}
              change={change}
            />
          )}
          {step.kind === "slot" && <StandIn draft={draft} step={step} change={change} />}
          <Values {...{ draft, place, step, kind, length, change }} />
        </div>
      ) : (
        <p className={styles.summary}>{summary(draft.effect, step, kind)}</p>
      )}
      {kind.holds && (
        <div className={styles.held} role="group" aria-label={`What ${name} repeats`}>
          <PassPicker draft={draft} lane={lane.id} step={step} frame={settled} length={length} />
          {inner.map((one, k) => (
            <div key={one.id}>
              <DropGap spot={{ lane: lane.id, at: k, inside: step.id }} />
              <StepCard {...props} step={one} at={k} last={k === inner.length - 1} inside={step} />
            </div>
          ))}
          <DropGap spot={{ lane: lane.id, at: inner.length, inside: step.id }} end>
            <button
              className={`bare ${styles.addHere}`}
              onClick={() => onAdd(lane.id, inner.length, step.id)}
            >
              Add a step to repeat
            </button>
          </DropGap>
        </div>
      )}
      {picking && (
        <InputPicker
          draft={draft}
          lane={lane}
          step={step}
          inside={inside}
          input={kind.inputs.find((one) => one.name === picking)!}
          frame={settled}
          length={length}
          change={change}
          onClose={() => setPicking(null)}
        />
      )}
    </article>
  );
}

interface ValuesProps {
  draft: DraftView;
  place: Place;
  step: Step;
  kind: StepKind;
  length: number;
  change: ChangeDraft;
}

/** The rows of a step's values that have an effect now. */
function Values({ draft, place, step, kind, length, change }: ValuesProps) {
  const { mix } = useKinds();
  const values = kind.main && mix ? [...kind.values, mix] : kind.values;
  return values
    .filter((one) => matters(step, one, values))
    .map((one) => (
      <ValueRow
        key={one.name}
        draft={draft}
        place={place}
        kind={one}
        value={valueOf(step, one)}
        length={length}
        change={change}
      />
    ));
}

function OnSwitch(props: Place & { name: string; on: boolean; change: ChangeDraft }) {
  const { lane, step, name, on, change } = props;
  return (
    <Switch
      size="small"
      className={styles.stepOn}
      checked={on}
      onChange={(next) => void change({ do: "turn-steps", steps: [{ lane, step }], on: next })}
      aria-label={`${name} on`}
    />
  );
}
