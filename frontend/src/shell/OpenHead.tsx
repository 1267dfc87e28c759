import type { ReactNode } from "react";
import { createPortal } from "react-dom";
import { create } from "zustand";

/** Where in the top bar the open place writes; the place may be drawn before the bar. */
const useRoom = create<{ element: HTMLElement | null }>(() => ({ element: null }));

/** Notes the element of the top bar that the open place writes into. */
export const openHeadIn = (element: HTMLElement | null) => useRoom.setState({ element });

/** What a place puts into the bar: the name of what is open, and its actions. */
export function OpenHead({ children }: { children: ReactNode }) {
  const target = useRoom((state) => state.element);
  return target ? createPortal(children, target) : null;
}
