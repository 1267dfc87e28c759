import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { create, type StoreApi } from "zustand";
import { asked } from "../api/asked";

/** Counts how often files that were being made have arrived: pictures are asked for again then. */
export const useArrivals = create<{ count: number }>(() => ({ count: 0 }));
const arrivalStore: StoreApi<{ count: number }> = useArrivals;

const EACH = 1500;

/** Looks after what is still being made, and tells everyone when some of it is there. */
export function useWaiting(): Record<string, number> {
  const client = useQueryClient();
  const found = useQuery({
    ...asked.waiting(),
    refetchInterval: (query) => (Object.keys(query.state.data?.files ?? {}).length ? EACH : false),
  });
  const files = found.data?.files ?? {};
  const left = Object.keys(files).length;
  useEffect(() => {
    const before = known;
    known = left;
    if (before === undefined || left >= before) return;
    arrivalStore.setState(({ count }) => ({ count: count + 1 }));
    for (const one of [asked.materials(), asked.macros()])
      void client.invalidateQueries({ queryKey: one.queryKey });
  }, [left, client]);
  return files;
}

let known: number | undefined;

/** An address that is asked for again once something has arrived; the server sees no difference. */
export const since = (url: string, count: number) => (count && url ? `${url}#${count}` : url);
