import {
  useMutation,
  useMutationState,
  useQuery,
  useQueryClient,
  type DataTag,
  type QueryKey,
  type UseQueryOptions,
} from "@tanstack/react-query";
import { App } from "antd";
import { useEffect } from "react";
import { passes, type Problem } from "./client";

/** Milliseconds between two attempts while the server is gone or busy. */
const ASK_AGAIN = 1500;

interface Act<View> {
  /** Makes a change on the server, and returns the new draft. */
  act: (now: View) => Promise<View>;
  /** The draft to show until the server has answered. */
  expected?: ((view: View) => View) | undefined;
  /** Somebody else changed it meanwhile; called in place of the plain message. */
  conflict?: ((problem: Problem, now: View) => void) | undefined;
  /** The revision of the first attempt. An answer may be lost, so further attempts use the same
   * one. */
  now?: View;
}

type Asked<View> = UseQueryOptions<View, Problem> & { queryKey: DataTag<QueryKey, View, Problem> };

/**
 * A draft that is saved in revisions, and the one way to change it.
 *
 * Changes go to the server one after another, in order, each on the revision that the one before
 * left. While the server is gone the first one is tried again until it is back, and the others
 * wait behind it, also after the person has left the place, so no change is lost. Until a change is
 * answered, its expected result is shown.
 */
export function useChanges<View extends { revision: number }>(asked: unknown, settled: () => void) {
  const query = asked as Asked<View>;
  const client = useQueryClient();
  const { message } = App.useApp();
  const key = query.queryKey;
  const found = useQuery(query);

  const { mutateAsync } = useMutation<View | null, Problem, Act<View>>({
    mutationKey: key,
    scope: { id: JSON.stringify(key) },
    networkMode: "always",
    meta: { told: true },
    mutationFn: async (one) => {
      one.now = one.now ?? client.getQueryData<View>(key);
      return one.now ? one.act(one.now) : null;
    },
    retry: (_, problem) => passes(problem),
    retryDelay: ASK_AGAIN,
    onSuccess: (view) => view && client.setQueryData<View>(key, view),
    onError: async (problem, { conflict, now }) => {
      const another = problem.status === 409;
      if (another && problem.where === "revision" && conflict && now) conflict(problem, now);
      else void message.error(problem.message);
      if (another) await client.invalidateQueries({ queryKey: key });
    },
    onSettled: settled,
  });
  const waiting = useMutationState({
    filters: { mutationKey: key, exact: true, status: "pending" },
    select: ({ state }) => ({
      expected: (state.variables as Act<View>).expected,
      failed: state.failureReason as Problem | null,
    }),
  });
  const failed = waiting.find((one) => passes(one.failed))?.failed;
  const gone: Gone = failed ? (failed.status === 0 ? "away" : "busy") : null;
  useEffect(() => {
    if (!gone) return;
    // Changes that are not sent yet would be lost with the page.
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [gone]);

  const run = (act: Act<View>["act"], more?: Pick<Act<View>, "expected" | "conflict">) =>
    mutateAsync({ act, ...more }).catch(() => null);
  const view = waiting.reduce(
    (now, one) => (now && one.expected ? one.expected(now) : now),
    found.data,
  );
  return { view, problem: found.error, run, waiting: waiting.length, gone };
}

/** The reason why changes cannot be saved now; null if they can. */
type Gone = "away" | "busy" | null;

const WHY = {
  away: "Pale Static does not answer",
  busy: "Another program is using the data folder",
} as const;

/** The state of saving, in words. */
export function savedWords(saved: string, waiting: number, gone: Gone): string {
  if (gone)
    return `${WHY[gone]}; ${waiting} change${waiting > 1 ? "s wait" : " waits"} and nothing is lost`;
  return waiting ? "saving…" : saved;
}
