import { create } from "zustand";
import { persist } from "zustand/middleware";

interface TrayState {
  favourites: string[];
  /** Macros used last, newest first. */
  recent: string[];
  shown: "all" | "favourites" | "recent";
  set: (change: Partial<Pick<TrayState, "favourites" | "shown">>) => void;
  used: (slug: string) => void;
}

const MOST_RECENT = 12;

/** Favourite macros and macros used last; stored in the browser. */
export const useTray = create<TrayState>()(
  persist(
    (set) => ({
      favourites: [],
      recent: [],
      shown: "all",
      set,
      used: (slug) =>
        set(({ recent }) => ({
          recent: [slug, ...recent.filter((one) => one !== slug)].slice(0, MOST_RECENT),
        })),
    }),
    { name: "pale-static.tray" },
  ),
);
