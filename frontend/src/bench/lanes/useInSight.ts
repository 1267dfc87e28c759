import { useEffect, useRef } from "react";

/** The time for which a card counts as just added, in ms. */
const FRESH = 2000;

/** Scrolls a card that was just added and selected into view, together with its values. */
export function useInSight<T extends HTMLElement>(selected: boolean) {
  const card = useRef<T>(null);
  const fresh = useRef(true);
  useEffect(() => {
    const timer = setTimeout(() => (fresh.current = false), FRESH);
    return () => clearTimeout(timer);
  }, []);
  useEffect(() => {
    if (selected && fresh.current) card.current?.scrollIntoView({ block: "nearest" });
  }, [selected]);
  return card;
}
