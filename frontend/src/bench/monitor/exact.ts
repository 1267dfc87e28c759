import { useEffect, useRef, useState } from "react";
import { livePicture, problemOf } from "../../api/client";

/** An exact picture: its address, or the request for a change on trial. */
export type Source = { url: string } | { path: string; body: unknown };

const MOST_KEPT = 12;
const kept = new Map<string, ImageData>();

async function read(source: Source, signal: AbortSignal): Promise<ImageData | null> {
  const key = "url" in source ? source.url : null;
  const known = key ? kept.get(key) : undefined;
  if (known) return known;
  const answer =
    "url" in source
      ? await fetch(source.url, { signal })
      : await livePicture(source.path, source.body, signal);
  if (!answer || answer.status === 204) return null;
  if (!answer.ok) throw await problemOf(answer);
  // The file's numbers: without colour conversion for the screen, and without premultiplying.
  const picture = await createImageBitmap(await answer.blob(), {
    premultiplyAlpha: "none",
    colorSpaceConversion: "none",
  });
  const canvas = new OffscreenCanvas(picture.width, picture.height);
  const context = canvas.getContext("2d", { willReadFrequently: true })!;
  context.drawImage(picture, 0, 0);
  picture.close();
  const found = context.getImageData(0, 0, canvas.width, canvas.height);
  if (key) {
    kept.set(key, found);
    if (kept.size > MOST_KEPT) kept.delete(kept.keys().next().value!);
  }
  return found;
}

/** The pixels of a source; the last ones stay until new ones have come. One request at a time. */
export function useExact(source: Source | null): {
  pixels: ImageData | null;
  fault: string | null;
} {
  const [pixels, setPixels] = useState<ImageData | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const key = source && JSON.stringify(source);
  const waiting = useRef<Source | null>(null);
  const busy = useRef(false);
  useEffect(() => {
    waiting.current = key ? (JSON.parse(key) as Source) : null;
    if (!key) {
      setPixels(null);
      return;
    }
    if (busy.current) return;
    busy.current = true;
    void (async () => {
      while (waiting.current) {
        const next = waiting.current;
        waiting.current = null;
        try {
          const found = await read(next, new AbortController().signal);
          if (found) setPixels(found);
          setFault(null);
        } catch (error) {
          setFault((error as Error).message);
        }
      }
      busy.current = false;
    })();
  }, [key]);
  return { pixels, fault };
}
