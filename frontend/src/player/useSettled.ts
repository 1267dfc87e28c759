import { useEffect, useState } from "react";
import type { StoreApi } from "zustand";

/** The frame at a place's playhead after it has rested for a number of milliseconds. */
export function useSettled<S extends { frame: number }>(
  store: Pick<StoreApi<S>, "getState" | "subscribe">,
  ms: number,
): number {
  const [frame, setFrame] = useState(() => store.getState().frame);
  useEffect(() => {
    let timer = 0;
    const settle = () => setFrame(store.getState().frame);
    const stop = store.subscribe((now, before) => {
      if (now.frame === before.frame) return;
      clearTimeout(timer);
      timer = window.setTimeout(settle, ms);
    });
    settle();
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [store, ms]);
  return frame;
}
