import { useQuery } from "@tanstack/react-query";
import { Input, Radio, Select } from "antd";
import { useState } from "react";
import { asked } from "../../api/asked";
import { query, type MacroCard, type NewDraft, type PartView } from "../../api/client";
import { isPicture } from "../../api/kinds";
import { Picture } from "../../player/Picture";
import { ClipSelect } from "../../controls/ClipSelect";
import { useAddressed } from "../../shell/useAddressed";
import { finder, type Findable } from "./search";
import styles from "./Starts.module.css";

type Group = "recipe" | "macro" | "part";
const GROUPS: { value: Group; label: string }[] = [
  { value: "recipe", label: "Recipes" },
  { value: "macro", label: "Macros" },
  { value: "part", label: "Parts" },
];
const KINDS = ["transition", "look", "title", "texture"] as const;

/** Something to start from. */
interface Row extends Findable {
  group: Group;
  still: string;
  /** Its frames side by side, and their duration. */
  strip?: string;
  seconds?: number;
  body: NewDraft;
}

/** The number of frames of a moving picture. */
const PLACES = 20;

function made(group: Group, one: MacroCard, clips: Record<string, string>): Row {
  const on = group === "recipe" && Object.keys(clips).length ? JSON.stringify(clips) : "";
  const at = `/api/macros/${one.slug}/${one.version}`;
  const length = one.frames;
  const frame = Math.floor(length * 0.48);
  return {
    id: one.slug,
    label: one.name,
    family: one.kind,
    sentence: one.sentence,
    words: one.tags,
    group,
    still: `${at}/frame.jpg?${query({ frame, length, width: 320, height: 180, clips: on })}`,
    strip: `${at}/strip.jpg?${query({ length, places: PLACES, width: 240, height: 135, clips: on })}`,
    seconds: one.seconds,
    body: { macro: one.slug, version: one.version, ...(group === "recipe" && { clips }) },
  };
}

function kept(one: PartView, kind: (typeof KINDS)[number]): Row {
  return {
    id: `part:${one.id}`,
    label: one.part.name,
    family: "part",
    sentence: one.part.notes || `${one.steps} steps you have kept.`,
    words: [one.collection, ...(one.part.tags ?? [])],
    group: "part",
    still: one.picture,
    body: { kind, name: one.part.name, part: one.id, project: one.project },
  };
}

interface Props {
  project: string;
  onStart: (body: NewDraft) => void;
}

/** Recipes, macros and kept parts to start from, searched by what they do and shown on the person's
 * own clips. */
export function Starts({ project, onStart }: Props) {
  const macros = useQuery(asked.macros());
  const parts = useQuery(asked.parts());
  const materials = useQuery(asked.materials());
  const [group, setGroup] = useAddressed("from", "recipe");
  const [text, setText] = useAddressed("words", "");
  const [partKind, setPartKind] = useState<(typeof KINDS)[number]>("look");
  const [chosen, setChosen] = useState<Record<string, string>>({});
  const pictures = (materials.data?.materials ?? []).filter(isPicture);
  const videos = pictures.filter((one) => one.facts.kind === "video");
  const from = chosen["from"] ?? videos[0]?.id;
  const to = chosen["to"] ?? videos[1 % videos.length]?.id;
  const tried = { ...(from && { from, clip: from }), ...(to && { to }) };
  const rows = [
    ...(macros.data?.recipes ?? []).map((one) => made("recipe", one, tried)),
    ...(macros.data?.macros ?? []).map((one) => made("macro", one, tried)),
    ...(parts.data?.parts ?? []).map((one) => kept(one, partKind)),
  ];
  const find = finder(rows);
  const wish = text.trim();
  const { rows: shown, near } = wish
    ? find(wish)
    : { rows: rows.filter((row) => row.group === group), near: false };
  const clips = rows[0]?.body.clips ?? {};
  return (
    <>
      <div className="page-head">
        <Input
          style={{ width: 300 }}
          type="search"
          aria-label="What should it do?"
          placeholder="What should it do? Burn away, old film…"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        {!wish && (
          <Radio.Group
            optionType="button"
            aria-label="What to start from"
            value={group}
            options={GROUPS}
            onChange={(event) => setGroup(event.target.value as string)}
          />
        )}
        {shown.some((row) => row.group === "recipe") && pictures.length > 0 && (
          <>
            <span className="soft">on</span>
            {(["from", "to"] as const).map((slot) => (
              <ClipSelect
                key={slot}
                label={slot === "from" ? "First clip" : "Second clip"}
                value={clips[slot]}
                onChoose={(id) => setChosen({ ...chosen, [slot]: id })}
              />
            ))}
          </>
        )}
        {shown.some((row) => row.group === "part") && (
          <Select
            aria-label="Kind of the new effect"
            value={partKind}
            popupMatchSelectWidth={false}
            options={KINDS.map((value) => ({ value, label: `parts start a ${value}` }))}
            onChange={setPartKind}
          />
        )}
      </div>
      {near && (
        <p className="soft" role="status">
          Nothing has the word “{wish}”. These come near it:
        </p>
      )}
      <div className={`cards ${styles.starts}`}>
        {shown.map((row) => (
          <StartCard
            key={row.id}
            row={row}
            what={wish ? `${row.group} · ${row.family}` : row.family}
            onStart={() => onStart({ project, ...row.body })}
          />
        ))}
      </div>
      {!shown.length && (macros.data ?? parts.data) && (
        <p className="empty">
          {wish
            ? `Nothing here does “${wish}”. Start with nothing, and search for a step.`
            : group === "macro"
              ? "The shelf is empty."
              : "No parts are kept yet."}
        </p>
      )}
    </>
  );
}

/** A card that plays while it is pointed at or focused. */
function StartCard({ row, what, onStart }: { row: Row; what: string; onStart: () => void }) {
  const [moving, setMoving] = useState(false);
  return (
    <button
      className="bare card"
      onClick={onStart}
      onMouseEnter={() => setMoving(true)}
      onMouseLeave={() => setMoving(false)}
      onFocus={() => setMoving(true)}
      onBlur={() => setMoving(false)}
    >
      <span className={styles.picture}>
        <Picture url={row.still} alt="" />
        {moving && row.strip && (
          <span
            className={styles.strip}
            style={{
              backgroundImage: `url('${row.strip}')`,
              backgroundSize: `${PLACES * 100}% 100%`,
              animation: `${styles["play"]} ${row.seconds}s steps(${PLACES}, jump-none) infinite`,
            }}
          />
        )}
      </span>
      <span>
        <b>{row.label}</b> <span className="soft">{what}</span>
      </span>
      <span>{row.sentence}</span>
    </button>
  );
}
