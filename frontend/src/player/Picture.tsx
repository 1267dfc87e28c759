import { useEffect, useRef, useState } from "react";
import { problemOf } from "../api/client";
import { inLine } from "./line";
import { since, useArrivals } from "./arrivals";
import { useVisible } from "./useVisible";

interface Props {
  /** Where the picture is; undefined while there is nothing to show. */
  url: string | undefined;
  alt: string;
  /** Width over height, so that its place is there before it is. */
  aspect?: number;
  className?: string;
  onShown?: () => void;
  /** Comes before others. */
  first?: boolean;
}

/** A picture from the server. The old one stays until the new one is there; a fault is told. */
export function Picture({
  url: address,
  alt,
  aspect = 16 / 9,
  className = "",
  onShown,
  first,
}: Props) {
  const arrived = useArrivals((state) => state.count);
  const url = address && since(address, arrived);
  const [shown, setShown] = useState<string>();
  const [fault, setFault] = useState<string>();
  const [place, visible] = useVisible<HTMLSpanElement>();
  const told = useRef(onShown);
  told.current = onShown;
  const rank = useRef(1);
  rank.current = first ? 0 : 1;
  const here = useRef<string>(undefined);
  useEffect(() => {
    if (!url || !visible || here.current === url) return;
    const stop = new AbortController();
    const come = async () => {
      const answer = await fetch(url, { signal: stop.signal });
      if (answer.status === 204) return null;
      if (!answer.ok) throw await problemOf(answer);
      return answer.blob();
    };
    void (async () => {
      try {
        const blob = await inLine(rank.current, stop.signal, come);
        if (!blob || stop.signal.aborted) return;
        const made = URL.createObjectURL(blob);
        here.current = url;
        setFault(undefined);
        setShown((old) => {
          if (old) URL.revokeObjectURL(old);
          return made;
        });
        told.current?.();
      } catch (error) {
        if (!stop.signal.aborted) setFault((error as Error).message);
      }
    })();
    return () => stop.abort();
  }, [url, visible]);
  const last = useRef(shown);
  last.current = shown;
  useEffect(() => () => void (last.current && URL.revokeObjectURL(last.current)), []);
  return (
    <span ref={place} className={`picture ${className}`} style={{ aspectRatio: String(aspect) }}>
      {shown && <img src={shown} alt={alt} draggable={false} />}
      {fault && (
        <span className="fault" role="status">
          {fault}
        </span>
      )}
    </span>
  );
}
