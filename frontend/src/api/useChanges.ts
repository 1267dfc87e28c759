import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Problem } from "./client";

/** How often a server that is gone is asked whether it is back. */
const ASK_AGAIN = 1500;

interface Options<View> {
  load: () => Promise<View>;
  /** After each act, whether it went well or not. */
  settled?: () => void;
  /** Somebody else changed it meanwhile: says so in place of the plain message. */
  conflict?: (problem: Problem, now: View) => void;
}

/**
 * Something that is saved in revisions, and the one way to change it.
 *
 * Changes go to the server one after another, in order, each on the revision that the one before
 * left. While the server is gone the first one is tried again until it is back, and the others
 * wait behind it, also when the place is left meanwhile: nothing that was done is lost.
 */
export function useChanges<View extends { revision: number }>(
  name: string,
  id: number,
  options: Options<View>,
) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const [waiting, setWaiting] = useState(0);
  const [gone, setGone] = useState(false);
  const found = useQuery({ queryKey: [name, id], queryFn: options.load });
  const held = useRef(options);
  held.current = options;

  useEffect(() => {
    if (!gone) return;
    // What is not sent yet would be lost with the page.
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [gone]);

  const insist = useCallback(async (act: () => Promise<View>): Promise<View> => {
    for (;;) {
      try {
        const after = await act();
        setGone(false);
        return after;
      } catch (error) {
        if ((error as Problem).status !== 0) throw error;
        setGone(true);
        await new Promise((go) => setTimeout(go, ASK_AGAIN));
      }
    }
  }, []);

  const run = useCallback(
    (
      act: (now: View) => Promise<View>,
      conflict?: (problem: Problem, now: View) => void,
    ): Promise<View | null> => {
      setWaiting((old) => old + 1);
      const next = line.current.then(async () => {
        try {
          const now = client.getQueryData<View>([name, id]);
          if (!now) return null;
          try {
            const after = await insist(() => act(now));
            client.setQueryData([name, id], after);
            return after;
          } catch (error) {
            const problem = error as Problem;
            const told = conflict ?? held.current.conflict;
            if (problem.where === "revision" && problem.status === 409 && told) told(problem, now);
            else void message.error(problem.message);
            if (problem.status === 409) await client.invalidateQueries({ queryKey: [name, id] });
            return null;
          }
        } finally {
          setWaiting((old) => old - 1);
          held.current.settled?.();
        }
      });
      line.current = next;
      return next;
    },
    [client, id, insist, message, name],
  );
  return { view: found.data, problem: found.error, run, waiting, gone };
}

/** How saving stands, in words. */
export function savedWords(saved: string, waiting: number, gone: boolean): string {
  if (gone)
    return `Pale Static does not answer; ${waiting} change${waiting > 1 ? "s wait" : " waits"} and nothing is lost`;
  return waiting ? "saving…" : saved;
}
