import type { ReactNode } from "react";
import { createPortal } from "react-dom";
import { create } from "zustand";

/** The element of the top bar for the open place; the place may be drawn before the bar. */
const useRoom = create<{ element: HTMLElement | null }>(() => ({ element: null }));

/** Notes the element of the top bar that the open place writes into. */
export const openHeadIn = (element: HTMLElement | null) => useRoom.setState({ element });

/** A place's part of the bar: the name of the open thing, and its actions. */
export function OpenHead({ children }: { children: ReactNode }) {
  const target = useRoom((state) => state.element);
  return target ? createPortal(children, target) : null;
}
