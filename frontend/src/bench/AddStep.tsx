import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { asked } from "../api/asked";
import { livePicture, type DraftView, type StepKind } from "../api/client";
import { inLine } from "../player/line";
import { useVisible } from "../player/useVisible";
import { smallOf } from "./frames";
import { useBench } from "./store";
import { useKinds } from "./useDraft";
import styles from "./AddStep.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  lane: string;
  at: number;
  inside: string | null;
  sourcesOnly: boolean;
  onPick: (kind: StepKind) => void;
  onClose: () => void;
}

/** Search over names, families and needs; each row shows the step applied right here. */
export function AddStep(props: Props) {
  const { draft, lane, at, onPick, onClose, sourcesOnly } = props;
  const { kinds: built } = useKinds();
  const macros = useQuery(asked.macroSteps());
  const kinds = useMemo(() => [...built, ...(macros.data?.kinds ?? [])], [built, macros.data]);
  const [text, setText] = useState("");
  const [active, setActive] = useState(0);
  const list = useRef<HTMLUListElement>(null);
  const name = draft.effect.lanes.find((one) => one.id === lane)?.name;
  const found = search(
    kinds.filter((kind) => (kind.main === null) === sourcesOnly),
    text,
  );
  const chosen = Math.min(active, found.length - 1);
  useEffect(() => {
    list.current?.querySelectorAll("[role=option]")[chosen]?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
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
          if (event.key === "ArrowDown") setActive(Math.min(found.length - 1, chosen + 1));
          else if (event.key === "ArrowUp") setActive(Math.max(0, chosen - 1));
          else if (event.key === "Enter" && found[chosen]) onPick(found[chosen]);
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
          aria-activedescendant={found[chosen] ? `kind-${found[chosen].kind}` : undefined}
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
        <ul role="listbox" id="step-list" ref={list} aria-label="Steps">
          {found.map((kind, index) => [
            !text.trim() && kind.family !== found[index - 1]?.family && (
              <li key={kind.family} role="presentation" className={styles.family}>
                {kind.family}
              </li>
            ),
            // eslint-disable-next-line jsx-a11y/click-events-have-key-events -- the search field has its keys
            <li
              key={kind.kind}
              id={`kind-${kind.kind}`}
              role="option"
              aria-selected={index === chosen}
              onPointerMove={() => setActive(index)}
              onClick={() => onPick(kind)}
            >
              <Applied key={`${kind.kind}-${at}`} kind={kind} {...props} />
              <span>
                <b>{kind.label}</b> {text.trim() && <span className="soft">{kind.family}</span>}
                <br />
                {kind.sentence}
              </span>
            </li>,
          ])}
        </ul>
        {!found.length && (
          <p className={`soft ${styles.nothing}`}>
            No step does that. Try another word: a thing (edge, noise) or a doing (soften, uncover).
          </p>
        )}
      </div>
    </div>
  );
}

/** What adding a step of a kind says: a kind of the catalogue, or a macro as "slug@version". */
export function addedAs(kind: StepKind) {
  const [slug, version] = kind.kind.split("@");
  return version
    ? { kind: "macro", macro: { slug: slug!, version: Number(version) } }
    : { kind: kind.kind };
}

/** Words of a sentence that say nothing of what is wanted. */
const FILLERS = new Set(
  "a an and are as by for from give i in is it its like look make me my of on so the that this to want with".split(
    " ",
  ),
);

/** What a word that a step has nothing of takes from its rank. */
const MISSED = 6;

/** Steps that have to do with the words, best first: by name, then by words, then by sentence. */
export function search(kinds: readonly StepKind[], text: string): StepKind[] {
  const words = text
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word && !FILLERS.has(word));
  const rank = (kind: StepKind): number => {
    let total = 0;
    let met = 0;
    for (const word of words) {
      const before = total;
      const stem = word.length > 4 ? word.replace(/(ing|ed|s)$/, "") : word;
      if (kind.label.toLowerCase().startsWith(word)) total += 8;
      else if (kind.label.toLowerCase().includes(stem)) total += 5;
      else if (kind.words.includes(word)) total += 4;
      else if (kind.words.some((one) => one.includes(stem))) total += 3;
      else if (`${kind.sentence} ${kind.family}`.toLowerCase().includes(stem)) total += 1;
      if (total > before) met += 1;
      else if (word.length > 2) total -= MISSED;
    }
    return words.length && !met ? -Infinity : total;
  };
  return kinds
    .map((kind) => ({ kind, score: rank(kind) }))
    .filter(({ score }) => score > -Infinity)
    .sort((one, two) => two.score - one.score)
    .map(({ kind }) => kind);
}

/** A small picture of the step applied where it would stand. */
function Applied(props: Props & { kind: StepKind }) {
  const { draft, frame, length, lane, at, inside, kind } = props;
  const shape = useBench((state) => state.shape);
  const [url, setUrl] = useState<string>();
  const [place, visible] = useVisible<HTMLSpanElement>(true);
  useEffect(() => {
    if (!visible) return;
    const stop = new AbortController();
    let made: string | undefined;
    const body = {
      base: draft.revision,
      change: { do: "add-step", lane, ...addedAs(kind), at, inside },
      frame,
      length,
      ...smallOf(shape),
      step: "added",
    };
    inLine(2, stop.signal, () => livePicture(`/effects/${draft.id}/live`, body, stop.signal))
      .then((blob) => {
        if (blob && !stop.signal.aborted) setUrl((made = URL.createObjectURL(blob)));
      })
      // A step that cannot stand here yet has no picture; its card will say what it needs.
      .catch(() => undefined);
    return () => {
      stop.abort();
      if (made) URL.revokeObjectURL(made);
    };
  }, [draft.id, draft.revision, frame, length, lane, at, inside, shape, kind, visible]);
  return (
    <span className={styles.applied} ref={place}>
      {url && <img src={url} alt="" />}
    </span>
  );
}
