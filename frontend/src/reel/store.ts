import { create, type StoreApi } from "zustand";
import { useSettled } from "../player/useSettled";
import type { Selection } from "./selection";

/** What was copied on the strip. */
export type Copied =
  | { kind: "placed"; names: string[] }
  | { kind: "settings"; macro: string; settings: Record<string, unknown> };

/** How the strip is shown; nothing here is part of the edit. */
interface ReelState {
  frame: number;
  selected: Selection;
  /** Pixels of a frame; null fits the whole edit. */
  zoom: number | null;
  /** Pixels of a frame as the strip is drawn now. */
  scale: number;
  snap: boolean;
  /** Before and after, side by side: where the line lies, 0 to 1; null shows the edit alone. */
  split: number | null;
  /** While held: the edit without what is selected. */
  before: boolean;
  copied: Copied | null;
  /** What is wrong at frames that have been looked at. */
  faults: Readonly<Record<number, string>>;
  /** Frames that are in memory. */
  ready: ReadonlySet<number>;
  set: (change: Partial<Omit<ReelState, "set">>) => void;
}

export const useReelState = create<ReelState>((set) => ({
  frame: 0,
  selected: null,
  zoom: null,
  scale: 1,
  snap: true,
  split: null,
  before: false,
  copied: null,
  faults: {},
  ready: new Set(),
  set,
}));

/** The same, asked for what it holds now: whoever asks is not told of changes. */
export const reelStore: StoreApi<ReelState> = useReelState;

/** The frame at the playhead, once the playhead has rested for a number of milliseconds. */
export const useSettledFrame = (ms: number) => useSettled(reelStore, ms);

/** Show the strip closer by a factor; less than 1 shows more of it. */
export function zoomBy(factor: number) {
  const { scale, set } = reelStore.getState();
  set({ zoom: scale * factor });
}
