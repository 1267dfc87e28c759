/**
 * The keys: one table for the places and for the help.
 *
 * A key is named as {@link useKeys} gives it: small letters, “Ctrl+” and “Ctrl+Shift+” in front.
 */

export type Place = "bench" | "reel" | "shelf";

interface Act {
  /** The text for the help. */
  does: string;
  /** The keys in the form for people. */
  shown: string;
  /** The keys by name, for each place that has them. */
  on: { readonly [place in Place]?: readonly string[] };
}

const both = (...keys: string[]) => ({ bench: keys, reel: keys });

export const ACTS = {
  toggle: { shown: "Space", does: "play, stop", on: { ...both(" "), shelf: [" "] } },
  backwards: { shown: "J", does: "play backwards", on: both("j") },
  stop: { shown: "K", does: "stop", on: both("k") },
  forwards: { shown: "L", does: "play", on: both("l") },
  back: { shown: "←", does: "one frame back; ten with Shift", on: both("ArrowLeft") },
  on: { shown: "→", does: "one frame forward; ten with Shift", on: both("ArrowRight") },
  first: { shown: "Home", does: "first frame", on: both("Home") },
  last: { shown: "End", does: "last frame", on: both("End") },
  undo: { shown: "Ctrl+Z", does: "undo", on: both("Ctrl+z") },
  redo: { shown: "Ctrl+Shift+Z", does: "redo", on: both("Ctrl+Shift+z") },
  leave: { shown: "Esc", does: "select nothing", on: both("Escape") },
  previousKey: { shown: "Ctrl+←", does: "previous key", on: { bench: ["Ctrl+ArrowLeft"] } },
  nextKey: { shown: "Ctrl+→", does: "next key", on: { bench: ["Ctrl+ArrowRight"] } },
  add: { shown: "/", does: "add a step", on: { bench: ["/"] } },
  turn: { shown: "O", does: "turn the selected steps on or off", on: { bench: ["o"] } },
  removeSteps: {
    shown: "Delete",
    does: "remove the picked steps, or the picked keys",
    on: { bench: ["Delete"] },
  },
  note: {
    shown: "N",
    does: "write a note on the selected step, or on the effect",
    on: { bench: ["n"] },
  },
  expose: {
    shown: "E",
    does: "expose the value under the pointer, or the one in focus",
    on: { bench: ["e"] },
  },
  view: { shown: "V", does: "next view of the monitor", on: { bench: ["v"] } },
  wide: {
    shown: "D",
    does: "the drawer in place of the lanes, and back",
    on: { bench: ["d"] },
  },
  stage: { shown: "Ctrl+S", does: "save a named state", on: { bench: ["Ctrl+s"] } },
  previousEdge: { shown: "Ctrl+←", does: "previous edge", on: { reel: ["Ctrl+ArrowLeft"] } },
  nextEdge: { shown: "Ctrl+→", does: "next edge", on: { reel: ["Ctrl+ArrowRight"] } },
  split: { shown: "X", does: "split at the playhead", on: { reel: ["x"] } },
  markIn: { shown: "[", does: "mark in", on: { reel: ["["] } },
  markOut: { shown: "]", does: "mark out", on: { reel: ["]"] } },
  mark: { shown: "M", does: "a named mark", on: { reel: ["m"] } },
  remove: {
    shown: "Delete",
    does: "remove and close the gap; with Shift leave the gap",
    on: { reel: ["Delete"] },
  },
  copy: { shown: "Ctrl+C", does: "copy", on: { reel: ["Ctrl+c"] } },
  paste: { shown: "Ctrl+V", does: "paste at the playhead", on: { reel: ["Ctrl+v"] } },
  all: { shown: "Ctrl+A", does: "select all shots", on: { reel: ["Ctrl+a"] } },
  closer: { shown: "+", does: "zoom in", on: { reel: ["+", "="] } },
  away: { shown: "−", does: "zoom out", on: { reel: ["-"] } },
  whole: { shown: "0", does: "show the whole edit", on: { reel: ["0"] } },
  snap: { shown: "A", does: "snapping on or off", on: { reel: ["a"] } },
  before: {
    shown: "B",
    does: "while held, the picture before what is selected",
    on: { reel: ["b"] },
  },
} as const satisfies Record<string, Act>;

type Acts = typeof ACTS;

/** The acts that a place has. */
export type ActOf<P extends Place> = {
  [Name in keyof Acts]: Acts[Name]["on"] extends { readonly [place in P]: unknown } ? Name : never;
}[keyof Acts];

/** The act of a key in a place. */
export function actOf<P extends Place>(place: P, key: string): ActOf<P> | undefined {
  const found = Object.entries<Act>(ACTS).find(([, act]) => act.on[place]?.includes(key));
  return found?.[0] as ActOf<P> | undefined;
}

/** Keys and gestures that work in one spot only; the spot itself handles them. */
const GESTURES: readonly { shown: string; does: string; place: Place }[] = [
  {
    shown: "Ctrl-click",
    does: "pick several steps, as Ctrl+Enter; with Shift a run of them",
    place: "bench",
  },
  { shown: "Alt+↑ ↓", does: "move the step in focus", place: "bench" },
];

/** The keys in the help: first those of all places, then those of each place. */
export function helpRows(): { heading: string; rows: { shown: string; does: string }[] }[] {
  const acts = Object.values<Act>(ACTS);
  const only = (place: Place) => [
    ...acts.filter((act) => act.on[place] && Object.keys(act.on).length === 1),
    ...GESTURES.filter((one) => one.place === place),
  ];
  return [
    {
      heading: "Everywhere",
      rows: [
        ...acts.filter((act) => act.on.bench && act.on.reel),
        { shown: "?", does: "this list" },
      ],
    },
    { heading: "Bench", rows: only("bench") },
    { heading: "Reel", rows: only("reel") },
  ];
}
