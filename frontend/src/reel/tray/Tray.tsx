import { useQuery } from "@tanstack/react-query";
import { Input, Segmented } from "antd";
import { useState } from "react";
import { asked } from "../../api/asked";
import type { MacroCard, ReelChange, ReelView } from "../../api/client";
import { reelStore, useSettledFrame } from "../store";
import { isShot, lookOf, named, placedOf, type Selection } from "../selection";
import type { ChangeReel } from "../useReel";
import { Clips } from "./Clips";
import { PLACES, type Ground, type PlaceKind, type Trial } from "./places";
import { TryOn } from "./TryOn";
import { useTray } from "./trayStore";
import styles from "./Tray.module.css";

interface Props {
  view: ReelView;
  selected: Selection;
  /** The macro with which the person opened the Reel, with its settings. */
  wanted: { slug: string; settings: Record<string, unknown> } | null;
  change: ChangeReel;
  onSelect: (selected: Selection) => void;
}

/** Macros that fit the selection, shown on it; clips and overlays without a selection. */
export function Tray({ view, selected, wanted, change, onSelect }: Props) {
  const [tab, setTab] = useState<"clips" | "over">(wanted ? "over" : "clips");
  if (selected) {
    const look = selected.kind === "look" ? lookOf(view, selected.look) : null;
    const names = selected.kind === "placed" ? selected.names : look ? [look.on.id] : [];
    const place: PlaceKind =
      selected.kind === "cuts" ? { kind: "cuts", cuts: selected.cuts } : { kind: "shots", names };
    const one = named(view, names[0]);
    const what = one && !isShot(one) ? "this item" : "this shot";
    const several = names.length > 1 ? `these ${names.length}` : what;
    const cuts = selected.kind === "cuts" ? selected.cuts.length : 0;
    const title = cuts > 1 ? `For these ${cuts} cuts` : cuts ? "For this cut" : `For ${several}`;
    return (
      <section className={styles.tray} aria-label={`Macros ${title.toLowerCase()}`}>
        <h2>{title}</h2>
        <Macros {...{ view, place, wanted, change, onSelect }} />
      </section>
    );
  }
  return (
    <section className={styles.tray} aria-label="Clips and overlays">
      <Segmented<"clips" | "over">
        block
        aria-label="What to put on the strip"
        value={tab}
        onChange={setTab}
        options={[
          { value: "clips", label: "Clips" },
          { value: "over", label: "Over the shots" },
        ]}
      />
      {tab === "clips" ? (
        <Clips view={view} change={change} />
      ) : (
        <Macros {...{ view, place: { kind: "over" }, wanted, change, onSelect }} />
      )}
    </section>
  );
}

interface MacrosProps extends Omit<Props, "selected"> {
  place: PlaceKind;
}

/** A grid of macros for a place, filtered by words, favourites or recent use. */
function Macros({ view, place, wanted, change, onSelect }: MacrosProps) {
  const [text, setText] = useState("");
  const { favourites, recent, shown, set, used } = useTray();
  const macros = useQuery(asked.macros());
  const settled = useSettledFrame(250);
  const groundAt = (frame: number): Ground => {
    const plain = PLACES[place.kind](view, place as never, frame);
    const set = (one: ReelChange) => ({ ...one, settings: wanted?.settings }) as ReelChange;
    const trial = (macro: MacroCard): Trial => {
      const made = plain.trial(macro);
      if (macro.slug !== wanted?.slug) return made;
      return { ...made, change: set(made.change), place: set(made.place) };
    };
    return { ...plain, trial };
  };
  const ground = groundAt(settled);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const matches = (one: MacroCard) => {
    const told = [one.name, one.sentence, ...one.tags, ...one.controls.map((c) => c.label)];
    const all = told.join(" ").toLowerCase();
    return words.every((word) => all.includes(word));
  };
  const rank = (one: MacroCard) =>
    one.slug === wanted?.slug ? -1 : shown === "recent" ? recent.indexOf(one.slug) : 0;
  const found = [...(macros.data?.macros ?? []), ...(macros.data?.plain ?? [])]
    .filter((one) => ground.kinds.includes(one.kind))
    .filter((one) => shown !== "favourites" || favourites.includes(one.slug))
    .filter((one) => shown !== "recent" || recent.includes(one.slug))
    .filter(matches)
    .sort((a, b) => rank(a) - rank(b));
  const liked = (slug: string) =>
    set({
      favourites: favourites.includes(slug)
        ? favourites.filter((one) => one !== slug)
        : [...favourites, slug],
    });
  return (
    <>
      <p className="soft">{ground.words}</p>
      <Input
        size="small"
        type="search"
        aria-label="Filter macros"
        placeholder="Name, tag, control…"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Segmented<"all" | "favourites" | "recent">
        size="small"
        className={styles.shown}
        value={shown}
        aria-label="Which macros"
        onChange={(next) => set({ shown: next })}
        options={[
          { value: "all", label: "All" },
          { value: "favourites", label: "Favourites" },
          { value: "recent", label: "Recently used" },
        ]}
      />
      <div className={`${styles.trayGrid} ${view.width < view.height ? styles.tall : ""}`}>
        {found.map((macro) => {
          const trial = ground.trial(macro);
          return (
            <TryOn
              key={macro.slug}
              view={view}
              macro={macro}
              trial={trial}
              used={ground.inUse.includes(macro.slug)}
              liked={favourites.includes(macro.slug)}
              onLike={() => liked(macro.slug)}
              onPick={() => {
                used(macro.slug);
                const known = placedOf(view).map((one) => one.id);
                // The playhead may have moved since the pictures were made.
                const { frame, selected } = reelStore.getState();
                const here = groundAt(frame).trial(macro);
                void change(here.place).then((after) => {
                  // Keep what the person has selected since.
                  const still = reelStore.getState().selected === selected;
                  if (after && still) onSelect(ground.then(after, known));
                });
              }}
            />
          );
        })}
      </div>
      {macros.data && !found.length && (
        <p className="soft">
          {text ? `No ${ground.noun} matches. Try fewer words.` : ground.none(shown)}
        </p>
      )}
    </>
  );
}
