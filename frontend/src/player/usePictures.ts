import { useEffect, useEffectEvent, useRef, useState, type RefObject } from "react";
import { problemOf } from "../api/client";
import { inLine, type Turn } from "../api/queue";
import { since, useArrivals } from "./arrivals";
import { useVisible } from "./useVisible";

interface Asked {
  turn?: Turn;
  unseen?: boolean;
  onSettled?: () => void;
}

interface Fetched {
  /** The element for the picture; the picture is requested when the element comes into view. */
  place: RefObject<HTMLSpanElement | null>;
  /** Whether a picture has been drawn. */
  there: boolean;
  fault: string | undefined;
}

/**
 * Fetches the picture at an address and draws it; the old one stays until the new one has come.
 *
 * Pictures are drawn on canvases: an image element would load each a second time, from memory, at
 * twice the cost.
 */
export function usePictures(
  address: string | undefined,
  draw: (picture: ImageBitmap) => void,
  { turn = "shown", unseen = false, onSettled }: Asked = {},
): Fetched {
  const arrived = useArrivals((state) => state.count);
  const url = address && since(address, arrived);
  const [there, setThere] = useState(false);
  const [fault, setFault] = useState<string>();
  const [place, visible] = useVisible<HTMLSpanElement>();
  const wanted = visible || unseen;
  const shows = useEffectEvent(draw);
  const settles = useEffectEvent(() => onSettled?.());
  const turnNow = useEffectEvent(() => turn);
  const here = useRef<string>(undefined);
  useEffect(() => {
    if (!url || !wanted) return;
    if (here.current === url) {
      // A change with a fault was taken back.
      setFault(undefined);
      settles();
      return;
    }
    const stop = new AbortController();
    void (async () => {
      try {
        const answer = await inLine(turnNow(), stop.signal, url);
        if (answer.status === 204) return;
        if (!answer.ok) throw await problemOf(answer);
        const picture = await createImageBitmap(await answer.blob());
        if (stop.signal.aborted) return;
        here.current = url;
        shows(picture);
        picture.close();
        setFault(undefined);
        setThere(true);
      } catch (error) {
        if (stop.signal.aborted) return;
        setFault((error as Error).message);
      }
      settles();
    })();
    return () => stop.abort();
  }, [url, wanted]);
  return { place, there, fault };
}
