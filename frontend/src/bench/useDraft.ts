import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { createElement, useCallback } from "react";
import { useNavigate } from "react-router-dom";
import { api, type Change, type DraftView, type StepKind } from "../api/client";
import { useChanges } from "../api/useChanges";
import { useBench } from "./store";

/** The draft, and ways to change it. */
export function useDraft(id: number) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const { view, problem, run, waiting, gone } = useChanges<DraftView>("draft", id, {
    load: () => api.draft(id),
    settled: () => {
      useBench.getState().attempt(null);
      void client.invalidateQueries({ queryKey: ["history", id] });
    },
  });
  /** Somebody else changed it: what was done here can go on in a copy. */
  const offerCopy = useCallback(
    (sentence: string, revision: number, tried: Change) => {
      const keep = () =>
        void api
          .copyDraft(id, revision, tried)
          .then((copy) => navigate(`/bench/${copy.id}`))
          .catch((fault: Error) => message.error(fault.message));
      const button = createElement(
        "button",
        { className: "link", onClick: keep },
        "Keep mine as a copy",
      );
      const content = createElement("span", null, `${sentence} `, button);
      void message.error({ duration: 20, content });
    },
    [id, message, navigate],
  );
  const change = useCallback(
    (change: Change) =>
      run(
        (now) => api.change(id, now.revision, change),
        (fault, now) => offerCopy(fault.message, now.revision, change),
      ),
    [id, offerCopy, run],
  );
  return { draft: view, problem, change, run, waiting, gone };
}

export type ChangeDraft = ReturnType<typeof useDraft>["change"];

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
