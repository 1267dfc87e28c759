import { useEffect, useState } from "react";
import { create, type StoreApi } from "zustand";
import type { PlayerState } from "../../player/player";

interface Playing extends PlayerState {
  /** The draft whose first picture has come. Less urgent work waits for it. */
  came: number | null;
  set: (state: PlayerState) => void;
}

/** The state of the Bench's player, for the filmstrip and the monitor. */
export const usePlaying = create<Playing>((set) => ({
  came: null,
  playing: false,
  rate: 0,
  level: 0,
  ready: new Set<number>(),
  set: (state) => set(state),
}));

/** The same store, for reading the present state without following changes. */
export const playingStore: StoreApi<Playing> = usePlaying;

/** The longest wait for a first picture. */
const PATIENCE = 1000;

/** Whether a draft's first picture has come, or the wait for it has ended. */
export function usePictureCame(id: number): boolean {
  const came = usePlaying((state) => state.came === id);
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), PATIENCE);
    return () => clearTimeout(timer);
  }, []);
  return came || late;
}
