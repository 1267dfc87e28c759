import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { create, type StoreApi } from "zustand";
import { asked } from "../api/asked";

/** Counts arrivals of files that were being made: pictures are requested again then. */
export const useArrivals = create<{ count: number }>(() => ({ count: 0 }));
const arrivalStore: StoreApi<{ count: number }> = useArrivals;

const EACH = 1500;

/** Watches files that are being made, and notifies pictures when one is complete. */
export function useWaiting(): Record<string, number> {
  const client = useQueryClient();
  const found = useQuery({
    ...asked.waiting(),
    refetchInterval: (query) => (Object.keys(query.state.data?.files ?? {}).length ? EACH : false),
  });
  const files = found.data?.files ?? {};
  // Files that are complete, and those that are seen small meanwhile, change pictures.
  const left = found.data && [...Object.keys(files), "", ...found.data.small].join();
  useEffect(() => {
    const before = known;
    known = left;
    if (before === undefined || left === before) return;
    arrivalStore.setState(({ count }) => ({ count: count + 1 }));
    for (const one of [asked.materials(), asked.macros()])
      void client.invalidateQueries({ queryKey: one.queryKey });
  }, [left, client]);
  return files;
}

let known: string | undefined;

/** An address that changes when a file arrives, so that it is requested again; the server ignores
 * the change. */
export const since = (url: string, count: number) => (count && url ? `${url}#${count}` : url);
