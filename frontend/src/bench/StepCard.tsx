import { Button, Dropdown } from "antd";
import { useState } from "react";
import type { DraftView, Effect, Lane, Step, StepKind } from "../api/client";
import { isFormula, isKeys, isLink, plain, shownValue, valueOf } from "../api/values";
import { Picture } from "../player/Picture";
import { CARD, frameUrl } from "./frames";
import { GradeFile } from "./GradeFile";
import { StandIn } from "./StandIn";
import { samePlace, useBench } from "./store";
import { TapPicker } from "./TapPicker";
import { useSettled, type Cost } from "./useCosts";
import { useKinds, type EditDraft } from "./useDraft";
import { ValueRow } from "./ValueRow";

interface Props {
  draft: DraftView;
  lane: Lane;
  step: Step;
  at: number;
  last: boolean;
  frame: number;
  length: number;
  edit: EditDraft;
  costs: Map<string, Cost>;
  onAdd: (lane: string, at: number) => void;
}

/** A step with its own live picture; selecting it unfolds its values in place. */
export function StepCard(props: Props) {
  const { draft, lane, step, at, last, frame, length, edit, costs, onAdd } = props;
  const { kindOf, mix } = useKinds();
  const kind = kindOf(step.kind);
  const { selected, select } = useBench();
  const [picking, setPicking] = useState<string | null>(null);
  const settled = useSettled(frame, 90);
  const mine = samePlace(selected, lane.id, step.id);
  if (!kind) return null;
  const where = `${lane.id}.${step.id}`;
  const open = draft.findings.filter((one) => one.where.startsWith(where));
  const name = step.name || kind.label;
  const cost = costs.get(where);
  const place = { lane: lane.id, step: step.id };
  const values = kind.main && mix ? [...kind.values, mix] : kind.values;

  const act = (key: string) => {
    if (key === "up") void edit({ do: "move-step", ...place, to: lane.id, at: at - 1 });
    if (key === "down") void edit({ do: "move-step", ...place, to: lane.id, at: at + 1 });
    if (key === "remove") void edit({ do: "remove-step", ...place });
    if (key === "on") void edit({ do: "set-step", ...place, on: !step.on });
    if (key === "below") onAdd(lane.id, at + 1);
    if (key.startsWith("to:"))
      void edit({ do: "move-step", ...place, to: key.slice(3), at: 10000 });
  };
  const others = draft.effect.lanes.filter((one) => one.id !== lane.id && !one.folded);
  const items = [
    { key: "below", label: "Add a step below" },
    { key: "on", label: step.on ? "Take out (off)" : "Put back in (on)" },
    { key: "up", label: "Move up", disabled: at === 0 },
    { key: "down", label: "Move down", disabled: last },
    {
      key: "lanes",
      label: "Move to lane",
      disabled: !others.length,
      children: others.map((one) => ({ key: `to:${one.id}`, label: one.name })),
    },
    { key: "remove", label: "Remove", danger: true },
  ];

  return (
    <article
      className={`step ${mine ? "selected" : ""} ${step.on ? "" : "off"}`}
      aria-label={`${name} in ${lane.name}`}
      data-place={where}
    >
      <div className="step-head">
        <button
          className="bare step-name"
          aria-expanded={mine}
          onClick={() => select(mine ? null : place)}
        >
          {name}
          {!step.on && <span className="soft"> · off</span>}
        </button>
        <span className="mono soft" title={costWords(cost)}>
          {cost === undefined ? "" : cost.ms.toFixed(1)}
        </span>
        <Dropdown trigger={["click"]} menu={{ items, onClick: ({ key }) => act(key) }}>
          <Button size="small" type="text" aria-label={`${name}: more`}>
            ⋯
          </Button>
        </Dropdown>
      </div>
      <button
        className="bare step-picture"
        tabIndex={-1}
        aria-hidden
        onClick={() => select(mine ? null : place)}
      >
        <Picture url={frameUrl(draft, settled, length, CARD, place)} alt={`What ${name} gives`} />
      </button>
      {offered(kind.taps, step.taps ?? {}).map((tap) => {
        const source = step.taps?.[tap.name];
        if (!source && tap.optional && !mine) return null;
        return (
          <button
            key={tap.name}
            className={`bare tap ${source || tap.optional ? "" : "open"}`}
            title={tap.help}
            onClick={() => setPicking(tap.name)}
          >
            <b>{tap.name}:</b>{" "}
            {source ? tapWords(draft.effect, step, tap.name, kind) : "choose a source"}
          </button>
        );
      })}
      {open
        .filter(
          (one) =>
            !one.where.slice(where.length + 1) ||
            !kind.taps.some((tap) => one.where.endsWith(`.${tap.name}`)),
        )
        .map((one) => (
          <p key={one.sentence} className="step-open bad">
            {one.sentence}
          </p>
        ))}
      {mine ? (
        <div className="values">
          {step.kind === "balance" && (
            <GradeFile draft={draft} place={place} frame={frame} length={length} edit={edit} />
          )}
          {step.kind === "slot" && <StandIn draft={draft} step={step} edit={edit} />}
          {values.map((value) => (
            <ValueRow
              key={value.name}
              draft={draft}
              place={place}
              step={step}
              kind={value}
              frame={frame}
              length={length}
              edit={edit}
            />
          ))}
        </div>
      ) : (
        <p className="summary">{summary(draft.effect, step, kind)}</p>
      )}
      {picking && (
        <TapPicker
          draft={draft}
          lane={lane}
          step={step}
          tap={kind.taps.find((one) => one.name === picking)!}
          frame={settled}
          length={length}
          edit={edit}
          onClose={() => setPicking(null)}
        />
      )}
    </article>
  );
}

/** The inputs to show: of optional ones in a row without a source, the first alone. */
function offered(taps: StepKind["taps"], given: NonNullable<Step["taps"]>): StepKind["taps"] {
  const empty = taps.map((tap) => tap.optional && !given[tap.name]);
  return taps.filter((_, k) => !(empty[k] && empty[k - 1]));
}

/** A tap as a sentence: "Fray, luminance". */
function tapWords(effect: Effect, step: Step, name: string, kind: StepKind): string {
  const tap = step.taps?.[name];
  if (!tap) return "";
  const lane = effect.lanes.find((one) => one.id === tap.lane);
  const source = tap.step ? lane?.steps?.find((one) => one.id === tap.step) : undefined;
  const takes = kind.taps.find((one) => one.name === name)?.takes;
  const words = [lane?.name ?? tap.lane];
  if (source) words.push(source.name || source.kind);
  if (takes === "matte") words.push(tap.channel ?? "luminance");
  if (tap.invert) words.push("inverted");
  if (tap.offset) words.push(`${plain(tap.offset)} frames`);
  return words.join(", ");
}

/** The values that are not at their defaults, in one line. */
function summary(effect: Effect, step: Step, kind: StepKind): string {
  const said = kind.values
    .filter((one) => step.values && one.name in step.values)
    .map((one) => {
      const value = valueOf(step, one);
      if (isKeys(value)) return `${one.label} moves`;
      if (isLink(value)) return `${one.label} exposed`;
      if (isFormula(value)) return `${one.label} by formula`;
      const shown = shownValue(effect, value, one);
      if (one.type === "toggle") return shown ? one.label : `no ${one.label}`;
      if (["asset", "font", "slot"].includes(one.type)) return one.label;
      if (one.type === "stops") return `${(shown as unknown[]).length} stops`;
      return `${one.label} ${plain(shown)}`;
    });
  return said.join(" · ") || "as it comes";
}

function costWords(cost: Cost | undefined): string {
  if (!cost) return "Not computed yet";
  const size = cost.bytes ? `, and its result ${(cost.bytes / 1e6).toFixed(1)} MB` : "";
  return `${cost.ms.toFixed(2)} ms when it was last computed${size}`;
}
