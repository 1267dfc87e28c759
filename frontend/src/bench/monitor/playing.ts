import { useEffect, useState } from "react";
import { create, type StoreApi } from "zustand";
import type { DraftView } from "../../api/client";
import type { PlayerState } from "../../player/player";
import { sinceOf, type Size } from "../frames";

interface Playing extends PlayerState {
  /** The draft whose picture has come. What can wait until then does. */
  came: number | null;
  /** What the monitor shows: see {@link shownAs}. */
  shown: string | null;
  set: (state: PlayerState) => void;
}

/** What the player of the Bench is doing, for the filmstrip and the monitor to show. */
export const usePlaying = create<Playing>((set) => ({
  came: null,
  shown: null,
  playing: false,
  rate: 0,
  level: 0,
  ready: new Set<number>(),
  set: (state) => set(state),
}));

/** The same, asked for what it holds now: whoever asks is not told of changes. */
export const playingStore: StoreApi<Playing> = usePlaying;

/** A frame of a draft's output, of this length and size, as one word. */
export const shownAs = (draft: DraftView, frame: number, length: number, size: Size) =>
  [draft.id, sinceOf(draft), frame, length, size.width, size.height].join("/");

/** How long a first picture is waited for. */
const PATIENCE = 1000;

/** Whether a draft's first picture has come, or is not waited for any longer. */
export function usePictureCame(id: number): boolean {
  const came = usePlaying((state) => state.came === id);
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), PATIENCE);
    return () => clearTimeout(timer);
  }, []);
  return came || late;
}
