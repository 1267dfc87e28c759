import { AutoComplete, Input } from "antd";
import { useEffect, useRef, useState } from "react";
import { livePicture, type DraftView } from "../../api/client";
import { plain } from "../../api/values";
import { everyStep } from "../graph";
import type { Place } from "../store";
import { useKinds } from "../useDraft";
import styles from "./FormulaField.module.css";
import valueRowStyles from "./ValueRow.module.css";

const NAMES: readonly [string, string][] = [
  ["progress", "0 at the first frame, 1 at the last"],
  ["frame", "this frame, from 0"],
  ["seconds", "since the first frame"],
  ["length", "frames of the effect"],
  ["rate", "frames a second"],
  ["width", "of the frame, in pixels"],
  ["height", "of the frame, in pixels"],
  ["pass", "this pass of a repeat, from 0"],
  ["passes", "how many passes there are"],
  ["pi", "half a turn, in radians"],
];

const FUNCTIONS: readonly [string, string][] = [
  ["sin(", "of an angle in radians"],
  ["cos(", "of an angle in radians"],
  ["abs(", "without its sign"],
  ["min(", "the least of several"],
  ["max(", "the most of several"],
  ["floor(", "the whole number below"],
  ["clamp(", "value, low, high"],
  ["mix(", "first, second, share"],
  ["smoothstep(", "low, high, value"],
  ["step(", "edge, value"],
  ["drift(", "seed, speed: a smooth wander, −1 to 1"],
  ["dice(", "seed: always the same, 0 to 1"],
  ["sqrt(", "square root"],
  ["round(", "to the nearest whole number"],
];

const WORD = /[a-z_][\w.]*$/i;

interface Props {
  label: string;
  text: string;
  result: number | undefined;
  draft: DraftView;
  place: Place;
  name: string;
  frame: number;
  length: number;
  onCommit: (text: string) => void;
}

/** A formula, checked while it is typed, with completed names and its present result. */
export function FormulaField(props: Props) {
  const { label, text, result, draft, place, name, frame, length, onCommit } = props;
  const { lane, step } = place;
  const { kindOf } = useKinds();
  const [typed, setTyped] = useState(text);
  const [fault, setFault] = useState<string | null>(null);
  const kept = useRef(text);
  useEffect(() => {
    kept.current = text;
    setTyped(text);
    setFault(null);
  }, [text]);
  useEffect(() => {
    if (typed === text || !typed.trim()) return setFault(null);
    const stop = new AbortController();
    const timer = setTimeout(() => {
      const value = { formula: typed };
      const change = { do: "set-value", lane, step, value_name: name, value };
      const body = { base: draft.revision, change, frame, length, width: 64, height: 36 };
      const place = `${lane}.${step}`;
      // The request is for the step's picture: a fault of its formula comes back as a sentence.
      livePicture(`/effects/${draft.id}/live`, { ...body, step: place }, stop.signal)
        .then(() => setFault(null))
        .catch((error: Error) => !stop.signal.aborted && setFault(error.message));
    }, 250);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [typed, text, draft.id, draft.revision, lane, step, name, frame, length]);

  const values = draft.effect.lanes.flatMap((lane) =>
    everyStep(lane).flatMap(({ step }) =>
      (kindOf(step)?.values ?? [])
        .filter((one) => one.type === "number")
        .map((one): [string, string] => [
          `${lane.id}.${step.id}.${one.name}`.replaceAll("-", "_"),
          `${step.name || kindOf(step)?.label}, ${one.label}`,
        ]),
    ),
  );
  const controls = (draft.effect.controls ?? []).map((one): [string, string] => [
    `control.${one.slug.replaceAll("-", "_")}`,
    one.label,
  ]);
  const word = WORD.exec(typed)?.[0] ?? "";
  const found = [...NAMES, ...FUNCTIONS, ...controls, ...values].filter(
    ([one]) => word && one !== word && one.toLowerCase().includes(word.toLowerCase()),
  );
  const commit = () => {
    if (typed === kept.current) return;
    kept.current = typed;
    onCommit(typed);
  };
  return (
    <span className={`${valueRowStyles.valueWide} ${styles.formula}`}>
      <AutoComplete
        size="small"
        value={typed}
        popupMatchSelectWidth={260}
        options={found.slice(0, 12).map(([one, says]) => ({
          value: one,
          label: (
            <span className={styles.completion}>
              <span className="mono">{one}</span> <span className="soft">{says}</span>
            </span>
          ),
        }))}
        onSelect={(one: string) => setTyped(typed.slice(0, typed.length - word.length) + one)}
        onChange={(next, option) => {
          // The choice is only the completed word; onSelect has inserted it.
          if (!option || !("label" in option)) setTyped(next);
        }}
      >
        <Input
          size="small"
          aria-label={`${label}: formula`}
          aria-invalid={fault !== null}
          status={fault ? "error" : ""}
          onBlur={commit}
          onKeyDown={(event) => {
            if (event.key === "Escape") setTyped(text);
            if (event.key === "Enter" && !found.length) event.currentTarget.blur();
          }}
        />
      </AutoComplete>
      {fault ? (
        <span className="bad" role="status">
          {fault}
        </span>
      ) : (
        <span className="mono soft">{result === undefined ? "" : `= ${plain(result)}`}</span>
      )}
    </span>
  );
}
