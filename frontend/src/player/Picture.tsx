import { useEffect, useRef, useState } from "react";
import { problemOf } from "../api/client";
import { useVisible } from "./useVisible";

interface Props {
  /** Where the picture is; undefined while there is nothing to show. */
  url: string | undefined;
  alt: string;
  /** Width over height, so that its place is there before it is. */
  aspect?: number;
  className?: string;
  onShown?: () => void;
}

/** A picture from the server. The old one stays until the new one is there; a fault is told. */
export function Picture({ url, alt, aspect = 16 / 9, className = "", onShown }: Props) {
  const [shown, setShown] = useState<string>();
  const [fault, setFault] = useState<string>();
  const [place, visible] = useVisible<HTMLSpanElement>();
  const told = useRef(onShown);
  told.current = onShown;
  useEffect(() => {
    if (!url || !visible) return;
    const stop = new AbortController();
    let made: string | undefined;
    void (async () => {
      try {
        const answer = await fetch(url, { signal: stop.signal });
        if (answer.status === 204) return;
        if (!answer.ok) throw await problemOf(answer);
        made = URL.createObjectURL(await answer.blob());
        if (stop.signal.aborted) return URL.revokeObjectURL(made);
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
