import { AutoComplete, Input, Switch } from "antd";
import { useState } from "react";
import type { Control, DraftView } from "../../api/client";
import { isLink } from "../../api/values";
import { NUMERIC } from "../../controls/faceplate";
import { MoreMenu } from "../../shell/MenuButton";
import type { ChangeDraft } from "../useDraft";
import { Advice } from "./Advice";
import { Driven } from "./Driven";
import { Span } from "./Span";
import { Words } from "./Words";
import styles from "./Faceplate.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  control: Control;
  groups: string[];
  open: boolean;
  onOpen: () => void;
  /** The places of its neighbours in its group; null at an end. */
  above: number | null;
  below: number | null;
  change: ChangeDraft;
  /** The control as the editor sees it. */
  children: React.ReactNode;
}

/** A control, with everything that can be set about it. */
export function ControlEdit(props: Props) {
  const { draft, frame, length, control, groups, open, onOpen, above, below, change, children } =
    props;
  const { slug, label } = control;
  const set = (more: Partial<Omit<Control, "slug">>) =>
    change({ do: "set-control", slug, ...more } as Parameters<ChangeDraft>[0]);
  const slider = (control.slider ?? [0, 1]) as [number, number];
  const numeric = NUMERIC.includes(control.type) && control.type !== "seed";
  const driven = draft.drives[slug] ?? [];
  const plays = isLink(draft.effect.backwards) && draft.effect.backwards.control === slug;
  const move = (at: number | null) => at !== null && void change({ do: "set-control", slug, at });
  const items = [
    { key: "up", label: "Move up (Alt+↑)", disabled: above === null },
    { key: "down", label: "Move down (Alt+↓)", disabled: below === null },
    { key: "hide", label: control.hidden ? "Show it to the editor" : "Hide it from the editor" },
    { key: "remove", label: "Remove this control" },
  ];
  const act = (key: string) => {
    if (key === "up") move(above);
    if (key === "down") move(below);
    if (key === "hide") void set({ hidden: !control.hidden });
    if (key === "remove") void change({ do: "remove-control", slug });
  };
  return (
    <div
      className={styles.controlEdit}
      data-control-edit={slug}
      data-hidden={control.hidden || undefined}
    >
      <div className={styles.controlEditHead}>
        <TextOf
          label={`Name of ${label}`}
          text={label}
          required
          onCommit={(text) => set({ label: text })}
          onMove={(by) => move(by < 0 ? above : below)}
        />
        {control.hidden && <span className={styles.mark}>hidden</span>}
        <span className={`soft ${styles.drives}`}>
          {driven.length || plays
            ? `drives ${[...driven.map((one) => one.words), ...(plays ? ["which way it plays"] : [])].join("; ")}`
            : "drives nothing yet"}
        </span>
        <button
          className="link"
          aria-expanded={open}
          aria-label={`${label}: ${open ? "less" : "all of it"}`}
          onClick={onOpen}
        >
          {open ? "less" : "all of it"}
        </button>
        <MoreMenu label={`Control ${label}: more`} items={items} onPick={act} />
      </div>
      {children}
      {open && (
        <div className={styles.more}>
          <span className={styles.line}>
            <span>help</span>
            <TextOf
              label={`Help for ${label}`}
              text={control.help ?? ""}
              placeholder="What more of it does, and when to use it"
              onCommit={(text) => set({ help: text })}
            />
          </span>
          <span className={styles.line}>
            <span>group</span>
            <Group
              label={`Group of ${label}`}
              group={control.group ?? ""}
              groups={groups}
              onCommit={(group) => set({ group })}
            />
          </span>
          {numeric && (
            <span className={styles.line}>
              <span>slider</span>
              <Span
                label={`${label}: slider`}
                span={slider}
                onCommit={(next) => set({ slider: next })}
              />
              {control.type !== "angle" && (
                <TextOf
                  short
                  label={`Unit of ${label}`}
                  text={control.unit ?? ""}
                  placeholder="unit"
                  onCommit={(unit) => set({ unit })}
                />
              )}
            </span>
          )}
          {numeric && <Allowed control={control} onSet={set} />}
          {numeric && <Advice control={control} onSet={set} />}
          {control.type === "choice" && <Words control={control} change={change} />}
          <When draft={draft} control={control} onSet={set} />
          <Driven {...{ draft, frame, length, control, change }} />
        </div>
      )}
    </div>
  );
}

export type SetControl = (more: Partial<Omit<Control, "slug">>) => unknown;

/** A text that is committed when it is left. */
function TextOf(props: {
  label: string;
  text: string;
  placeholder?: string;
  required?: boolean;
  short?: boolean;
  onCommit: (text: string) => unknown;
  /** Alt with an arrow: −1 up, 1 down. */
  onMove?: (by: number) => void;
}) {
  const { label, text, placeholder, required, short, onCommit, onMove } = props;
  return (
    <Input
      size="small"
      className={short ? styles.short : ""}
      aria-label={label}
      placeholder={placeholder}
      key={text}
      defaultValue={text}
      onBlur={(event) => {
        const next = event.target.value.trim();
        if (next !== text && (next || !required)) void onCommit(next);
      }}
      onPressEnter={(event) => event.currentTarget.blur()}
      onKeyDown={(event) => {
        if (!onMove || !event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
        event.preventDefault();
        onMove(event.key === "ArrowUp" ? -1 : 1);
      }}
    />
  );
}

function Group(props: {
  label: string;
  group: string;
  groups: string[];
  onCommit: (group: string) => unknown;
}) {
  const { label, group, groups, onCommit } = props;
  const [text, setText] = useState<string | null>(null);
  const commit = (next: string | null) => {
    setText(null);
    if (next !== null && next.trim() !== group) void onCommit(next.trim());
  };
  return (
    <AutoComplete
      size="small"
      className={styles.groupField}
      aria-label={label}
      placeholder="none"
      value={text ?? group}
      options={groups.filter((one) => one !== group).map((value) => ({ value }))}
      onChange={(next: string) => setText(next)}
      onSelect={(next: string) => commit(next)}
      onBlur={() => commit(text)}
      onKeyDown={(event) => {
        if (event.key === "Enter") commit(text);
      }}
    />
  );
}

/** What may be typed beyond the slider. */
function Allowed({ control, onSet }: { control: Control; onSet: SetControl }) {
  const { allowed, label } = control;
  const slider = (control.slider ?? [0, 1]) as [number, number];
  return (
    <span className={styles.line}>
      <span>allowed</span>
      <Switch
        size="small"
        aria-label={`${label}: limit what may be typed`}
        checked={Boolean(allowed)}
        onChange={(on) => void onSet({ allowed: on ? slider : null })}
      />
      {allowed ? (
        <Span
          label={`${label}: allowed`}
          span={allowed as [number, number]}
          onCommit={(next) => onSet({ allowed: next })}
        />
      ) : (
        <span className="soft">any number may be typed</span>
      )}
    </span>
  );
}

/** The settings of other controls for which it is shown. */
function When(props: { draft: DraftView; control: Control; onSet: SetControl }) {
  const { draft, control, onSet } = props;
  const others = (draft.effect.controls ?? []).filter(
    (one) => one.slug !== control.slug && ["toggle", "choice"].includes(one.type),
  );
  const when = control.when ?? {};
  if (!others.length) return null;
  return (
    <span className={styles.line}>
      <span>shown</span>
      <span className={styles.when}>
        {Object.keys(when).length ? "only for" : "always; or only for"}
        {others.map((other) => {
          const options: (boolean | string)[] =
            other.type === "toggle" ? [true, false] : (other.options ?? []);
          const some = when[other.slug] ?? [];
          return options.map((option) => {
            const word = option === true ? "on" : option === false ? "off" : option;
            const on = some.includes(option);
            return (
              <button
                key={`${other.slug} ${word}`}
                className={styles.pick}
                aria-pressed={on}
                aria-label={`${control.label} shown for ${other.label}: ${word}`}
                onClick={() => {
                  const next = on ? some.filter((one) => one !== option) : [...some, option];
                  const rest = Object.fromEntries(
                    Object.entries(when).filter(([slug]) => slug !== other.slug),
                  );
                  void onSet({ when: next.length ? { ...rest, [other.slug]: next } : rest });
                }}
              >
                {other.label}: {word}
              </button>
            );
          });
        })}
      </span>
    </span>
  );
}
