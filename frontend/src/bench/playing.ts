import { create } from "zustand";
import type { PlayerState } from "../player/player";

interface Playing extends PlayerState {
  /** The draft whose picture has come. What can wait until then does. */
  came: number | null;
  set: (state: PlayerState) => void;
}

/** What the player of the Bench is doing, for the filmstrip and the monitor to show. */
export const usePlaying = create<Playing>((set) => ({
  came: null,
  playing: false,
  rate: 0,
  level: 0,
  ready: new Set<number>(),
  set: (state) => set(state),
}));
