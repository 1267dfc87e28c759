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

/** How often a server that is gone or busy is asked again. */
const ASK_AGAIN = 1500;

interface Act<View> {
  /** Changes what it is given on the server, and returns what came of it. */
  act: (now: View) => Promise<View>;
  /** What is shown until the server has answered. */
  expected?: ((view: View) => View) | undefined;
  /** Somebody else changed it meanwhile: says so in place of the plain message. */
  conflict?: ((problem: Problem, now: View) => void) | undefined;
  /** What it was first tried on. An answer may be lost, so a further try is on the same. */
  now?: View;
}

type Asked<View> = UseQueryOptions<View, Problem> & { queryKey: DataTag<QueryKey, View, Problem> };

/**
 * Something that is saved in revisions, and the one way to change it.
 *
 * Changes go to the server one after another, in order, each on the revision that the one before
 * left. While the server is gone the first one is tried again until it is back, and the others
 * wait behind it, also when the place is left meanwhile: nothing that was done is lost. Until it
 * is answered, a change shows what it is expected to do.
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
    // What is not sent yet would be lost with the page.
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

/** Why changes cannot be saved now; null when they can. */
type Gone = "away" | "busy" | null;

const WHY = {
  away: "Pale Static does not answer",
  busy: "Another program is using the data folder",
} as const;

/** How saving stands, in words. */
export function savedWords(saved: string, waiting: number, gone: Gone): string {
  if (gone)
    return `${WHY[gone]}; ${waiting} change${waiting > 1 ? "s wait" : " waits"} and nothing is lost`;
  return waiting ? "saving…" : saved;
}
