import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useEffect, useState } from "react";
import { asked } from "../api/asked";
import { query, type MacroCard, type Material, type ReelView } from "../api/client";
import { Picture } from "../player/Picture";
import { rateOf } from "../player/timecode";
import { longest } from "./Inspector";
import type { ChangeReel, Selection } from "./useReel";
import styles from "./Tray.module.css";

interface Props {
  view: ReelView;
  selected: Selection;
  wanted: string | null;
  change: ChangeReel;
  onPlaced: (left: string) => void;
}

/** For a cut: macros tried on, on this very cut. Otherwise: materials to put on the strip. */
export function Tray({ view, selected, wanted, change, onPlaced }: Props) {
  const [text, setText] = useState("");
  const macros = useQuery(asked.macros());
  const materials = useQuery(asked.materials());
  const shots = view.shots;
  const has = (words: string) => words.toLowerCase().includes(text.toLowerCase());
  if (selected?.kind === "cut") {
    const at = shots.findIndex((shot) => shot.id === selected.left);
    const join = view.joins.find((one) => one.left === selected.left);
    const found = (macros.data?.macros ?? [])
      .filter((one) => one.kind === "transition")
      .filter((one) => has(`${one.name} ${one.tags.join(" ")} ${one.sentence}`))
      .sort((a, b) => Number(b.slug === wanted) - Number(a.slug === wanted));
    return (
      <section className={styles.tray} aria-label="Macros for this cut">
        <h2>For this cut</h2>
        <p className="soft">
          {shots[at]?.name} → {shots[at + 1]?.name}, on your pictures
        </p>
        <Input
          size="small"
          type="search"
          aria-label="Filter macros"
          placeholder="Name, tag…"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <div className={`${styles.trayGrid} ${tall(view) ? styles.tall : ""}`}>
          {found.map((macro) => (
            <TryOn
              key={macro.slug}
              view={view}
              left={selected.left}
              macro={macro}
              used={join?.macro === macro.slug}
              length={join ? join.end - join.first : fitting(view, at, macro)}
              onPick={() => {
                const length = join ? join.end - join.first : fitting(view, at, macro);
                void change({
                  do: "place-join",
                  left: selected.left,
                  macro: macro.slug,
                  version: macro.version,
                  length,
                  alignment: join?.alignment ?? "across",
                }).then(() => onPlaced(selected.left));
              }}
            />
          ))}
        </div>
        {macros.data && !found.length && <p className="soft">No transition matches.</p>}
      </section>
    );
  }
  const found = (materials.data?.materials ?? []).filter(
    (one) => one.facts.kind !== "font" && has(one.name),
  );
  const place = (one: Material) => {
    const rate = rateOf(view.rate);
    const whole = one.facts.rate
      ? Math.max(1, Math.floor((one.facts.frames ?? 1) * (rate / rateOf(one.facts.rate)) + 1e-6))
      : Math.round(rate * 3);
    // A quarter of a second or so is kept back at both ends, for joins to draw on.
    const keep = one.facts.rate ? Math.min(Math.round(rate / 2), Math.floor(whole / 5)) : 0;
    const after = shots.findIndex((shot) => selected?.kind === "shot" && shot.id === selected.shot);
    void change({
      do: "add-shot",
      material: one.id,
      name: one.name,
      start: keep,
      length: Math.max(1, whole - 2 * keep),
      ...(after >= 0 ? { at: after + 1 } : {}),
    });
  };
  return (
    <section className={styles.tray} aria-label="Materials">
      <h2>Put on the strip</h2>
      <p className="soft">
        {selected?.kind === "shot"
          ? "After the selected shot."
          : "At the end. Select a cut for macros."}
      </p>
      <Input
        size="small"
        type="search"
        aria-label="Filter materials"
        placeholder="Name…"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <div className={styles.trayGrid}>
        {found.map((one) => (
          <button key={one.id} className={`bare ${styles.trayCard}`} onClick={() => place(one)}>
            <Picture
              url={`/api/materials/${one.id}/picture.jpg?frame=${Math.floor((one.facts.frames ?? 1) / 2)}&width=256&height=144`}
              alt=""
            />
            {one.name}
          </button>
        ))}
      </div>
      {materials.data && !found.length && (
        <p className="soft">Nothing here. Bring files in under Materials.</p>
      )}
    </section>
  );
}

/** Whether the edit stands upright: its pictures then stand closer together. */
const tall = (view: ReelView) => view.width < view.height;

/** The macro's own length, or as much of it as the shots and their handles allow across the cut. */
function fitting(view: ReelView, at: number, macro: MacroCard): number {
  const [left, right] = [view.shots[at]!, view.shots[at + 1]!];
  const spare = left.lasts === null ? null : Math.max(0, left.lasts - left.start - left.length);
  const still = right.lasts === null;
  const reach = longest("across", spare, still ? 10 ** 6 : right.start);
  const room = 2 * Math.min(left.length, right.length);
  const whole = Math.round(macro.seconds * rateOf(view.rate));
  // With hardly any handles it stays readable, and the faceplate says what helps.
  return Math.max(2, Math.min(whole, room, reach >= 8 ? reach : whole));
}

interface TryOnProps {
  view: ReelView;
  left: string;
  macro: MacroCard;
  used: boolean;
  length: number;
  onPick: () => void;
}

const STEPS = 12;

/** A macro on this cut with this footage; it plays while hovered or focused. */
function TryOn({ view, left, macro, used, length, onPick }: TryOnProps) {
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(0.48);
  const aspect = Math.min(2.4, view.width / view.height);
  useEffect(() => {
    if (!playing) return;
    const began = performance.now();
    const timer = setInterval(() => {
      const share = ((performance.now() - began) / 1400) % 1.2;
      setAt(Math.round(Math.min(1, share) * STEPS) / STEPS);
    }, 60);
    return () => {
      clearInterval(timer);
      setAt(0.48);
    };
  }, [playing]);
  const url = `/api/reels/${view.id}/${view.revision}/try-on.jpg?${query({
    left,
    macro: macro.slug,
    version: macro.version,
    length,
    frame: Math.round(at * (length - 1)),
    width: Math.max(2, Math.round(144 * aspect)),
    height: 144,
  })}`;
  return (
    <button
      className={`bare ${styles.trayCard} ${used ? styles.used : ""}`}
      aria-pressed={used}
      onClick={onPick}
      onMouseEnter={() => setPlaying(true)}
      onMouseLeave={() => setPlaying(false)}
      onFocus={() => setPlaying(true)}
      onBlur={() => setPlaying(false)}
      title={macro.sentence}
    >
      <Picture url={url} alt="" aspect={aspect} />
      {macro.name} {used && <span className="soft">in use</span>}
    </button>
  );
}
