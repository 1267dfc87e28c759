import { create } from "zustand";
import type { Edit } from "../api/client";

export interface Place {
  lane: string;
  step: string;
}

export type View = "result" | "step";

/** What the Bench looks at; nothing here is saved. */
interface BenchState {
  frame: number;
  length: number | null;
  selected: Place | null;
  view: View;
  loop: boolean;
  /** An edit being tried: shown on the monitor, kept only when it is let go. */
  trying: Edit | null;
  tab: string;
  go: (frame: number) => void;
  setLength: (length: number | null) => void;
  select: (place: Place | null) => void;
  setView: (view: View) => void;
  setLoop: (loop: boolean) => void;
  attempt: (edit: Edit | null) => void;
  setTab: (tab: string) => void;
}

export const useBench = create<BenchState>((set) => ({
  frame: 0,
  length: null,
  selected: null,
  view: "result",
  loop: true,
  trying: null,
  tab: "moves",
  go: (frame) => set({ frame }),
  setLength: (length) => set({ length }),
  select: (selected) => set({ selected }),
  setView: (view) => set({ view }),
  setLoop: (loop) => set({ loop }),
  attempt: (trying) => set({ trying }),
  setTab: (tab) => set({ tab }),
}));

export function samePlace(one: Place | null, lane: string, step: string): boolean {
  return one?.lane === lane && one.step === step;
}
