import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { ThemeName } from "./palette";

interface ThemeState {
  name: ThemeName;
  turn: () => void;
}

export const useTheme = create<ThemeState>()(
  persist(
    (set) => ({
      name: "pale",
      turn: () => set((state) => ({ name: state.name === "pale" ? "dim" : "pale" })),
    }),
    { name: "pale-static-theme" },
  ),
);
