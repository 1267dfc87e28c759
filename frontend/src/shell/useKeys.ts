import { useEffect, useEffectEvent } from "react";
import { actOf, type ActOf, type Place } from "./keymap";

/** The function of each act of a place. It returns false if there is nothing to do; the key then
 * keeps its meaning in the browser. */
export type ActsOf<P extends Place> = Record<ActOf<P>, (event: KeyboardEvent) => unknown>;

const BUTTON = "button, a, [role=button], [role=switch]";

/** The keys of a place. Text fields, menus and dialogs keep their own keys. */
export function useKeys<P extends Place>(place: P, acts: ActsOf<P> | null): void {
  const press = useEffectEvent((key: string, event: KeyboardEvent) => {
    const name = actOf(place, key);
    return Boolean(acts && name) && acts![name!](event) !== false;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const control = event.ctrlKey || event.metaKey;
      const typing =
        target.matches("textarea, select, [contenteditable=true]") ||
        (target.matches("input") && !target.matches("[type=range]"));
      // Escape leaves a plain field after the field has undone the typing; the next Escape is
      // the place's own.
      const plain =
        target.matches("input:not([role])") && !target.closest(".ant-popover, [data-covers]");
      if (typing && plain && event.key === "Escape") return void setTimeout(() => target.blur());
      if (typing && !(control && event.key.toLowerCase() === "s")) return;
      if (target.closest(".ant-modal, .ant-dropdown, .ant-select-dropdown, [data-covers]")) return;
      const arrow = event.key.startsWith("Arrow") || event.key === "Home" || event.key === "End";
      if (arrow && target.matches("[type=range], [role=listbox], [role=option]")) return;
      // Space presses a button that was reached by keys. One that was clicked gives its keys back.
      const button = target.closest<HTMLElement>(BUTTON);
      if (event.key === " " && button) {
        if (button !== clicked) return;
        button.blur();
      }
      if (event.key === "?" && !control) {
        document.querySelector<HTMLElement>("[data-help]")?.click();
        return;
      }
      const name = `${control ? "Ctrl+" : ""}${event.shiftKey && control ? "Shift+" : ""}${
        event.key.length === 1 ? event.key.toLowerCase() : event.key
      }`;
      if (press(name, event)) event.preventDefault();
    };
    let clicked: Element | null = null;
    // On "click", because "focusout" of what had the focus comes after "pointerdown".
    const pointed = (event: MouseEvent) => {
      clicked = event.detail ? (event.target as Element).closest(BUTTON) : null;
    };
    const left = () => (clicked = null);
    window.addEventListener("keydown", listen);
    window.addEventListener("click", pointed, true);
    window.addEventListener("focusout", left);
    return () => {
      window.removeEventListener("keydown", listen);
      window.removeEventListener("click", pointed, true);
      window.removeEventListener("focusout", left);
    };
  }, []);
}
