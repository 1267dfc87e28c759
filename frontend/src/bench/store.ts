import { create, type StoreApi } from "zustand";
import { persist } from "zustand/middleware";
import { useShallow } from "zustand/react/shallow";
import type { Change, Held } from "../api/client";
import { useSettled } from "../player/useSettled";

export interface Place {
  lane: string;
  step: string;
}

/** The picture that the monitor shows. */
export const VIEWS = [
  { key: "result", label: "Result" },
  { key: "step", label: "This step" },
  { key: "split", label: "Split" },
  { key: "overlay", label: "Two moments" },
  { key: "difference", label: "Difference" },
] as const;

export type View = (typeof VIEWS)[number]["key"];

/** The thing that the split and the difference compare with. */
export type Against = "clip" | "without" | "moment" | `stage:${number}`;

export const CHANNELS = ["colour", "red", "green", "blue", "luminance", "alpha"] as const;
export type Channel = (typeof CHANNELS)[number];

export interface Shape {
  name: string;
  width: number;
  height: number;
}

export const SHAPES: readonly Shape[] = [
  { name: "16:9", width: 16, height: 9 },
  { name: "9:16", width: 9, height: 16 },
  { name: "1:1", width: 1, height: 1 },
  { name: "4:5", width: 4, height: 5 },
];

/** A copied value, to paste into another row. */
export interface Copied {
  type: string;
  value: unknown;
  label: string;
}

/** The view of one effect on the Bench. */
interface Look {
  frame: number;
  length: number | null;
  selected: Place | null;
  /** Steps picked together, as "lane.step"; the selected one is among them. */
  picked: string[];
  view: View;
  against: Against;
  /** An earlier revision to compare with, instead of the current effect. */
  base: number | null;
  channel: Channel;
  /** The other moment, as a frame, for the overlay and for comparing. */
  other: number;
  /** The frames that are looped; null means all. */
  range: [number, number] | null;
  /** Whether the drawer has the lanes' place. */
  wide: boolean;
}

export const FIRST_LOOK: Look = {
  frame: 0,
  length: null,
  selected: null,
  picked: [],
  view: "result",
  against: "clip",
  base: null,
  channel: "colour",
  other: 0,
  range: null,
  wide: false,
};

/** The view state, apart from everything else. */
export function lookOf(state: BenchState): Partial<BenchState> {
  const { frame, length, selected, picked, view, against, base, channel, other, range } = state;
  const { tab, wide } = state;
  return { frame, length, selected, picked, view, against, base, channel, other, range, tab, wide };
}

/** The view state of the Bench; none of it is a part of the effect. */
interface BenchState extends Look {
  /** The step under the pointer, whose inputs are drawn as lines. */
  hovered: string | null;
  /** The pass that a repeat's steps show, by "lane.step" of the repeat; the last by default. */
  passes: Record<string, number>;
  /** Macros that the draft runs as steps. */
  held: Held[];
  gain: number;
  shape: Shape;
  /** Lines of the preview. */
  lines: number;
  guides: { safe: boolean; centre: boolean; thirds: boolean };
  probing: boolean;
  /** Receives the next colour that a person picks on the monitor. */
  pipette: ((colour: string) => void) | null;
  loop: boolean;
  /** The change that was saved last, the revision it began from, and the one it led to. */
  made: { base: number; change: Change; revision: number } | null;
  /** A change on trial: shown on the monitor, saved when the person lets go. */
  trying: Change | null;
  copied: Copied | null;
  tab: string;
  go: (frame: number) => void;
  setLength: (length: number | null) => void;
  select: (place: Place | null) => void;
  pick: (names: string[]) => void;
  set: (more: Partial<Omit<BenchState, "set">>) => void;
  attempt: (change: Change | null) => void;
  setTab: (tab: string) => void;
}

export const useBench = create<BenchState>()(
  persist(
    (set) => ({
      ...FIRST_LOOK,
      hovered: null,
      passes: {},
      held: [],
      gain: 4,
      shape: SHAPES[0]!,
      lines: 540,
      guides: { safe: false, centre: false, thirds: false },
      probing: false,
      pipette: null,
      loop: true,
      made: null,
      trying: null,
      copied: null,
      tab: "moves",
      go: (frame) => set({ frame }),
      setLength: (length) => set({ length, range: null }),
      select: (selected) =>
        set({ selected, picked: selected ? [`${selected.lane}.${selected.step}`] : [] }),
      pick: (picked) => set({ picked }),
      set: (more) => set(more),
      attempt: (trying) => set({ trying }),
      setTab: (tab) => set({ tab }),
    }),
    {
      name: "pale-static-bench",
      // Preferences of the view survive a reload; the open effect is in the address.
      partialize: ({ shape, lines, guides, loop }) => ({ shape, lines, guides, loop }),
    },
  ),
);

/** The same store, for reading the present state without following changes. */
export const benchStore: StoreApi<BenchState> = useBench;

export function samePlace(one: Place | null, lane: string, step: string): boolean {
  return one?.lane === lane && one.step === step;
}

/** The size of a preview in even numbers, with the wanted number of lines on the shorter side. */
export function previewOf(
  { width, height }: Shape,
  lines: number,
): { width: number; height: number } {
  const scale = lines / Math.min(width, height);
  const even = (side: number) => Math.max(2, Math.round((side * scale) / 2) * 2);
  return { width: even(width), height: even(height) };
}

/** A part of the Bench's view state; the caller redraws only when that part changes. */
export function useBenchOf<Name extends keyof BenchState>(
  ...names: readonly Name[]
): Pick<BenchState, Name> {
  return useBench(
    useShallow(
      (state) =>
        Object.fromEntries(names.map((name) => [name, state[name]])) as Pick<BenchState, Name>,
    ),
  );
}

/** The frame at the playhead after it has stood still for a while. */
export const useSettledFrame = (length: number, ms: number) =>
  Math.min(useSettled(benchStore, ms), length - 1);
