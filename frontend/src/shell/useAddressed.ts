import { useEffect, useState } from "react";
import { useNavigationType, useSearchParams } from "react-router-dom";

/** The search text, also kept in the address, so that a reload or going back restores it. */
export function useAddressed(name: string, usual: string) {
  const [asked, setAsked] = useSearchParams();
  const there = asked.get(name) ?? usual;
  const [value, setValue] = useState(there);
  // Going back or forward reads the address again; while typing, the field is ahead of it.
  const way = useNavigationType();
  useEffect(() => {
    if (way === "POP") setValue(there);
  }, [there, way]);
  const put = (next: string) => {
    setValue(next);
    // The present address, not the drawn one: typing is faster than drawing.
    const all = new URLSearchParams(location.search);
    if (next === usual) all.delete(name);
    else all.set(name, next);
    setAsked(all, { replace: true });
  };
  return [value, put] as const;
}
