import { useEffect, useState } from "react";
import { useNavigationType, useSearchParams } from "react-router-dom";

/** What is looked for: in the address too, so that a reload, or going back, finds it again. */
export function useAddressed(name: string, usual: string) {
  const [asked, setAsked] = useSearchParams();
  const there = asked.get(name) ?? usual;
  const [value, setValue] = useState(there);
  // Going back or forward in the browser reads the address again; typing is ahead of it.
  const way = useNavigationType();
  useEffect(() => {
    if (way === "POP") setValue(there);
  }, [there, way]);
  const put = (next: string) => {
    setValue(next);
    // The address as it is, not as it was drawn: typing is faster than drawing.
    const all = new URLSearchParams(location.search);
    if (next === usual) all.delete(name);
    else all.set(name, next);
    setAsked(all, { replace: true });
  };
  return [value, put] as const;
}
