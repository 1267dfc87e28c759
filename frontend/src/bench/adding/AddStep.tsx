import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { asked } from "../../api/asked";
import type { DraftView, PartView, StepKind } from "../../api/client";
import { Picture } from "../../player/Picture";
import { smallOf, triedUrl } from "../frames";
import { choiceIn, finder, type Findable, type Finding } from "./search";
import { useBench } from "../store";
import { useKinds } from "../useDraft";
import styles from "./AddStep.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  lane: string;
  at: number;
  inside: string | null;
  sourcesOnly: boolean;
  /** Called for a picked step: for this place, or as the start of a new lane. */
  onPick: (added: Added, ownLane: boolean) => void;
  onPart: (part: PartView) => void;
  onClose: () => void;
}

/** A step, a macro or a kept part in the search. */
interface Row extends Findable {
  kind?: StepKind;
  part?: PartView;
  /** Where it goes, if not here; or the reason why it cannot be taken. */
  own?: boolean;
  cannot?: string;
}

/** The most results that do not go here. */
const BESIDES = 4;

function rowsOf(kinds: readonly StepKind[], parts: readonly PartView[]): Row[] {
  const steps: Row[] = kinds.map((kind) => ({ ...kind, id: kind.kind, kind }));
  const held: Row[] = parts.map((part) => ({
    id: `part:${part.id}`,
    label: part.part.name,
    family: part.recipe ? "Recipes" : "Kept parts",
    sentence: part.part.notes || `${part.steps} steps you have kept.`,
    words: [part.collection, ...(part.part.tags ?? [])],
    part,
  }));
  return [...held, ...steps];
}

/** Search over names, families and needs; each row shows the step applied at this place. */
export function AddStep(props: Props) {
  const { draft, frame, length, lane, at, inside, onPick, onPart, onClose, sourcesOnly } = props;
  const shape = useBench((state) => state.shape);
  const { kinds: built } = useKinds();
  const macros = useQuery(asked.macroSteps());
  const kept = useQuery(asked.parts());
  const rows = rowsOf(
    [...built, ...(macros.data?.kinds ?? [])],
    [...(kept.data?.recipes ?? []), ...(kept.data?.parts ?? [])].filter(
      (one) => !one.project || one.project === draft.project,
    ),
  );
  const find = finder(rows);
  const [text, setText] = useState("");
  const [active, setActive] = useState(0);
  const list = useRef<HTMLUListElement>(null);
  const name = draft.effect.lanes.find((one) => one.id === lane)?.name;
  const { shown, near } = arranged(text, rows, find, sourcesOnly);
  const chosen = Math.min(active, shown.length - 1);
  useEffect(() => {
    list.current?.querySelectorAll("[role=option]")[chosen]?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const pick = (row: Row | undefined) => {
    if (!row || row.cannot) return;
    if (row.part) onPart(row.part);
    else onPick(addedAs(row.kind!, text), Boolean(row.own));
  };
  const adding = (row: Row) => ({
    do: "add-step" as const,
    lane: row.own ? null : lane,
    ...addedAs(row.kind!, text),
    at,
    inside,
  });
  const heading = (row: Row) =>
    row.own ? "Starts a lane of its own" : (row.cannot ?? (text.trim() ? "" : row.family));
  return (
    <div
      className={styles.addStepGround}
      onPointerDown={(e) => e.target === e.currentTarget && onClose()}
    >
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- keys of the search field inside */}
      <div
        className={styles.addStep}
        data-covers
        role="dialog"
        aria-label="Add a step"
        onKeyDown={(event) => {
          if (event.key === "Escape") onClose();
          if (event.key === "ArrowDown") setActive(Math.min(shown.length - 1, chosen + 1));
          else if (event.key === "ArrowUp") setActive(Math.max(0, chosen - 1));
          else if (event.key === "Enter") pick(shown[chosen]);
          else return;
          event.preventDefault();
        }}
      >
        <input
          autoFocus
          type="text"
          role="combobox"
          aria-expanded
          aria-controls="step-list"
          aria-activedescendant={shown[chosen] ? `kind-${shown[chosen].id}` : undefined}
          aria-label="Search for a step by name or need"
          placeholder={
            sourcesOnly
              ? "What should this lane start with?"
              : `What should happen in ${name}? Soften, invert, uncover…`
          }
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setActive(0);
          }}
        />
        {near && (
          <p className={`soft ${styles.nothing}`} role="status">
            No step has the word “{text.trim()}”. These come near it:
          </p>
        )}
        <ul role="listbox" id="step-list" ref={list} aria-label="Steps">
          {shown.map((row, index) => [
            heading(row) && heading(row) !== (shown[index - 1] && heading(shown[index - 1]!)) && (
              <li key={`${row.id}-head`} role="presentation" className={styles.family}>
                {heading(row)}
              </li>
            ),
            // eslint-disable-next-line jsx-a11y/click-events-have-key-events -- the search field has its keys
            <li
              key={row.id}
              id={`kind-${row.id}`}
              role="option"
              aria-selected={index === chosen}
              aria-disabled={Boolean(row.cannot)}
              onPointerMove={() => setActive(index)}
              onClick={() => pick(row)}
            >
              {row.part ? (
                <Picture url={row.part.picture} alt="" />
              ) : row.cannot ? (
                <span />
              ) : (
                <Picture
                  key={`${row.id}-${at}`}
                  className={styles.applied}
                  turn="offered"
                  url={triedUrl(draft, adding(row), frame, length, smallOf(shape), "added")}
                  alt=""
                />
              )}
              <span>
                <b>{row.label}</b>{" "}
                {text.trim() && (
                  <span className="soft">{wished(row.kind, text)?.[1] ?? row.family}</span>
                )}
                <br />
                {row.sentence}
              </span>
            </li>,
          ])}
        </ul>
        {!shown.length && (
          <p className={`soft ${styles.nothing}`}>
            No step does that. Try another word: a thing (edge, noise) or a doing (soften, uncover).
          </p>
        )}
      </div>
    </div>
  );
}

/** Results that can stand here, best first; then results that go elsewhere. */
function arranged(
  text: string,
  rows: readonly Row[],
  find: (text: string) => Finding<Row>,
  sourcesOnly: boolean,
): { shown: Row[]; near: boolean } {
  const fits = (row: Row) =>
    row.part ? row.part.starts === sourcesOnly : (row.kind!.main === null) === sourcesOnly;
  const offered = (row: Row) => fits(row) && (row.kind || row.part!.recipe);
  if (!text.trim()) return { shown: rows.filter(offered), near: false };
  const { rows: found, near } = find(text);
  const besides = found
    .filter((row) => row.kind && !fits(row))
    .slice(0, BESIDES)
    .map((row) =>
      sourcesOnly
        ? { ...row, cannot: "Works on a picture: start the lane first" }
        : { ...row, own: true },
    );
  return { shown: [...found.filter(fits), ...besides], near };
}

/** The values for a choice that was searched for: a search for "multiply" adds a Blend set to
 * multiply. */
function wished(kind: StepKind | undefined, text: string) {
  return kind && !kind.kind.includes("@") ? choiceIn(kind.values, text) : null;
}

/** The change that adds a step: of a kind of the catalogue, or of a macro as "slug@version". */
function addedAs(kind: StepKind, text: string) {
  const [slug, version] = kind.kind.split("@");
  if (version) return { kind: "macro", macro: { slug: slug!, version: Number(version) } };
  const choice = wished(kind, text);
  return { kind: kind.kind, ...(choice && { values: { [choice[0]]: choice[1] } }) };
}

type Added = ReturnType<typeof addedAs>;
