import { create, type StoreApi } from "zustand";
import { useSettled } from "../player/useSettled";
import type { Selection } from "./selection";

/** Things copied on the strip. */
export type Copied =
  | { kind: "placed"; names: string[] }
  | { kind: "settings"; macro: string; settings: Record<string, unknown> };

/** The view state of the strip; none of it is a part of the edit. */
interface ReelState {
  frame: number;
  selected: Selection;
  /** Pixels of a frame; null fits the whole edit. */
  zoom: number | null;
  /** Pixels of a frame on the present strip. */
  scale: number;
  snap: boolean;
  /** Before and after, side by side: the place of the line, 0 to 1; null shows only the edit. */
  split: number | null;
  /** While a button is held: the edit without the selection. */
  before: boolean;
  copied: Copied | null;
  /** Faults at frames that were shown. */
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

/** The same store, for reading the present state without following changes. */
export const reelStore: StoreApi<ReelState> = useReelState;

/** The frame at the playhead after it has rested for a number of milliseconds. */
export const useSettledFrame = (ms: number) => useSettled(reelStore, ms);

/** Show the strip closer by a factor; less than 1 shows more of it. */
export function zoomBy(factor: number) {
  const { scale, set } = reelStore.getState();
  set({ zoom: scale * factor });
}
