import { useEffect, useEffectEvent, useState } from "react";

/**
 * Restores a place's view of one document after a reload or after another place, while the tab is
 * open. Gives whether it is shown; `show` gets null the first time.
 */
export function useComingBack<T>(
  place: string,
  id: number | null,
  shown: () => T,
  show: (before: T | null) => void,
): boolean {
  const [there, setThere] = useState<number | null>(null);
  const keep = useEffectEvent((name: string) =>
    sessionStorage.setItem(name, JSON.stringify(shown())),
  );
  const comeBack = useEffectEvent((name: string) => {
    const kept = sessionStorage.getItem(name);
    show(kept ? (JSON.parse(kept) as T) : null);
  });
  useEffect(() => {
    if (id === null) return;
    const name = `${place}-${id}`;
    comeBack(name);
    setThere(id);
    const leave = () => keep(name);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [place, id]);
  return id !== null && there === id;
}
