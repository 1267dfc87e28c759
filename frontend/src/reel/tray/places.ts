/** The places for macros of the tray: how a macro is shown and added at each. */

import type { MacroCard, ReelChange, ReelView } from "../../api/client";
import { rateOf } from "../../player/timecode";
import {
  cutFrame,
  cutWords,
  endOf,
  joinOn,
  named,
  placedOf,
  type Cut,
  type Selection,
} from "../selection";

export type PlaceKind =
  { kind: "cuts"; cuts: Cut[] } | { kind: "shots"; names: string[] } | { kind: "over" };

export interface Trial {
  /** The change that shows the macro there. */
  change: ReelChange;
  /** The change that puts it there, on all of the selection. */
  place: ReelChange;
  /** The frames that show it. */
  first: number;
  end: number;
}

export interface Ground {
  kinds: readonly string[];
  noun: string;
  words: string;
  none: (shown: string) => string;
  inUse: string[];
  trial: (macro: MacroCard) => Trial;
  /** The selection after it is placed. */
  then: (after: ReelView, known: readonly string[]) => Selection;
}

const none = (noun: string) => (shown: string) =>
  shown === "favourites"
    ? `No favourite ${noun} yet. Mark one with the star on its picture.`
    : shown === "recent"
      ? `You have not used a ${noun} here yet.`
      : `No ${noun} is on the shelf yet.`;

/** The longest join for the handles, at an alignment. */
export function longest(alignment: string, left: number | null, right: number | null): number {
  const after = left ?? Infinity;
  const before = right ?? Infinity;
  if (alignment === "before") return Math.min(before, 10 ** 6);
  if (alignment === "after") return Math.min(after, 10 ** 6);
  const even = 2 * Math.min(after, before);
  if (!Number.isFinite(even)) return 10 ** 6;
  return after > before ? even + 1 : even;
}

/** The frames of a shot that are free of the join at its other end. */
function roomOn(view: ReelView, cut: Cut, one: { id: string; begins: number; length: number }) {
  const ends = cut.left === one.id;
  const other = view.joins.find((join) => (ends ? join.right : join.left) === one.id);
  if (!other) return one.length;
  return Math.max(0, ends ? endOf(one) - other.end : other.first - one.begins);
}

/** The macro's own length, or the longest that the shots and their handles allow. */
function lengthOn(view: ReelView, cut: Cut, macro: MacroCard): number {
  const left = named(view, cut.left);
  const right = named(view, cut.right);
  const whole = Math.round(macro.seconds * rateOf(view.rate));
  if (!left || !right) return Math.max(1, Math.min(whole, roomOn(view, cut, (left ?? right)!)));
  const spare = (one: typeof left, side: "spare_before" | "spare_after") =>
    "gap" in one ? one[side] : (one.source?.[side] ?? null);
  const reach = longest("across", spare(left, "spare_after"), spare(right, "spare_before"));
  const room = 2 * Math.min(roomOn(view, cut, left), roomOn(view, cut, right));
  // With very short handles keep a visible length; the controls offer corrections.
  return Math.max(1, Math.min(whole, room, reach >= 8 ? reach : whole));
}

function onCuts(view: ReelView, { cuts }: { cuts: Cut[] }): Ground {
  const first = cuts[0]!;
  const placed = joinOn(view, first);
  return {
    kinds: ["transition"],
    noun: "transition",
    words:
      cuts.length > 1
        ? `Shown on the first of them: ${cutWords(view, first)}.`
        : `${cutWords(view, first)}, tried on your pictures`,
    none: none("transition"),
    inUse: cuts.flatMap((cut) => joinOn(view, cut)?.macro ?? []),
    trial: (macro) => {
      const length = placed ? placed.end - placed.first : lengthOn(view, first, macro);
      const at = cutFrame(view, first);
      const alignment = placed?.alignment ?? "across";
      const before = !first.left
        ? 0
        : !first.right || alignment === "before"
          ? length
          : alignment === "after"
            ? 0
            : Math.floor(length / 2);
      const one = {
        do: "place-join" as const,
        macro: macro.slug,
        version: macro.version,
        length,
        alignment,
        settings: {},
      };
      return {
        change: { ...one, cuts: [first] },
        place: { ...one, cuts },
        first: at - before,
        end: at - before + length,
      };
    },
    then: () => ({ kind: "cuts", cuts }),
  };
}

function onShots(view: ReelView, { names }: { names: string[] }): Ground {
  const one = named(view, names[0])!;
  return {
    kinds: ["look"],
    noun: "look",
    words: names.length > 1 ? `Shown on ${one.name}.` : `${one.name}, tried on your pictures`,
    none: none("look"),
    inUse: one.looks.map((look) => look.macro),
    trial: (macro) => {
      const look = {
        do: "add-look" as const,
        macro: macro.slug,
        version: macro.version,
        settings: {},
      };
      return {
        change: { ...look, shots: [one.id] },
        place: { ...look, shots: names },
        first: one.begins,
        end: endOf(one),
      };
    },
    then: (after) => {
      const look = named(after, names[0])?.looks.at(-1);
      return look && names.length === 1
        ? { kind: "look", look: look.id }
        : { kind: "placed", names };
    },
  };
}

function overAll(view: ReelView, _: unknown, frame: number): Ground {
  const rate = rateOf(view.rate);
  const marked = view.mark_in !== null && view.mark_out !== null;
  const at = view.mark_in ?? frame;
  return {
    kinds: ["title", "texture", "look"],
    noun: "title, texture or look",
    words: marked
      ? "Goes over the shots between the marks in and out."
      : "Goes over the shots, from the playhead on.",
    none: none("macro"),
    inUse: [],
    trial: (macro) => {
      const own = Math.max(1, Math.round(macro.seconds * rate));
      const left = (view.shots.at(-1) ? endOf(view.shots.at(-1)!) : 0) - at;
      // End it with the last shot, unless that leaves less than half a second.
      const length = marked ? view.mark_out! - at : left >= rate / 2 ? Math.min(own, left) : own;
      const change: ReelChange = {
        do: "add-item",
        name: macro.name,
        frame: at,
        length,
        start: 0,
        macro: macro.slug,
        version: macro.version,
        settings: {},
      };
      return { change, place: change, first: at, end: at + length };
    },
    then: (after, known) => {
      const made = placedOf(after).find((one) => !known.includes(one.id));
      return made ? { kind: "placed", names: [made.id] } : null;
    },
  };
}

export const PLACES = { cuts: onCuts, shots: onShots, over: overAll };
