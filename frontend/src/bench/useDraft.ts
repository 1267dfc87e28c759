import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { createElement, useCallback, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router-dom";
import { api, type DraftView, type Edit, type Problem, type StepKind } from "../api/client";
import { useBench } from "./store";

type Act = (now: DraftView) => Promise<DraftView>;

/** How often a server that is gone is asked whether it is back. */
const ASK_AGAIN = 1500;

/**
 * The draft, and ways to change it.
 *
 * Edits go to the server one after another, in order. While the server is gone the first one is
 * tried again until it is back, and the others wait behind it: nothing that was done is lost.
 */
export function useDraft(id: number) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const [waiting, setWaiting] = useState(0);
  const [gone, setGone] = useState(false);
  const found = useQuery({ queryKey: ["draft", id], queryFn: () => api.draft(id) });
  useEffect(() => {
    if (!gone) return;
    // What is not sent yet would be lost with the page.
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [gone]);

  const insist = useCallback(async (act: () => Promise<DraftView>): Promise<DraftView> => {
    for (;;) {
      try {
        const after = await act();
        setGone(false);
        return after;
      } catch (error) {
        // Also when the place is left meanwhile: what was done is sent when the server is back.
        if ((error as Problem).status !== 0) throw error;
        setGone(true);
        await new Promise((go) => setTimeout(go, ASK_AGAIN));
      }
    }
  }, []);

  const run = useCallback(
    (act: Act, tried: Edit | null = null): Promise<DraftView | null> => {
      setWaiting((old) => old + 1);
      const next = line.current.then(async () => {
        const now = client.getQueryData<DraftView>(["draft", id]);
        if (!now) return null;
        try {
          const after = await insist(() => act(now));
          client.setQueryData(["draft", id], after);
          void client.invalidateQueries({ queryKey: ["history", id] });
          return after;
        } catch (error) {
          const problem = error as Problem;
          if (problem.where === "revision" && problem.status === 409) {
            const keep = () =>
              void api
                .copyDraft(id, now.revision, tried)
                .then((copy) => navigate(`/bench/${copy.id}`))
                .catch((fault: Error) => message.error(fault.message));
            void message.error({
              duration: 20,
              content: createElement(
                "span",
                null,
                `${problem.message} `,
                createElement(
                  "button",
                  { className: "link", onClick: keep },
                  "Keep mine as a copy",
                ),
              ),
            });
            await client.invalidateQueries({ queryKey: ["draft", id] });
          } else void message.error(problem.message);
          return null;
        } finally {
          setWaiting((old) => old - 1);
          useBench.getState().attempt(null);
        }
      });
      line.current = next;
      return next;
    },
    [client, id, insist, message, navigate],
  );

  const edit = useCallback(
    (change: Edit) => run((now) => api.edit(id, now.revision, change), change),
    [id, run],
  );
  return { draft: found.data, problem: found.error, edit, run, waiting, gone };
}

export type EditDraft = ReturnType<typeof useDraft>["edit"];

/** The catalogue of steps, which never changes while the server runs. */
export function useKinds() {
  const found = useQuery({ queryKey: ["steps"], queryFn: api.steps, staleTime: Infinity });
  const kinds = found.data?.kinds ?? [];
  return {
    kinds,
    mix: found.data?.mix,
    kindOf: (kind: string): StepKind | undefined => kinds.find((one) => one.kind === kind),
  };
}
