import { create } from "zustand";
import type { PlayerState } from "../player/player";

/** What the player of the Bench is doing, for the filmstrip and the monitor to show. */
export const usePlaying = create<PlayerState & { set: (state: PlayerState) => void }>((set) => ({
  playing: false,
  rate: 0,
  level: 0,
  ready: new Set<number>(),
  set: (state) => set(state),
}));
