import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { createElement, useEffect } from "react";
import { useNavigate } from "react-router-dom";
import { asked } from "../api/asked";
import {
  answered,
  http,
  type Change,
  type DraftView,
  type Step,
  type StepKind,
} from "../api/client";
import { useChanges } from "../api/useChanges";
import { expected } from "./expected";
import { benchStore, useBench } from "./store";

/** The draft, and functions to change it. */
export function useDraft(id: number) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const settled = () => {
    benchStore.getState().attempt(null);
    void client.invalidateQueries({ queryKey: asked.history(id).queryKey });
  };
  const { view, problem, run, waiting, gone } = useChanges<DraftView>(asked.draft(id), settled);
  const held = view?.held;
  useEffect(() => benchStore.getState().set({ held: held ?? [] }), [held]);
  /** Somebody else changed it: the changes made here can continue in a copy. */
  const offerCopy = (sentence: string, base: number, change: Change) => {
    const params = { path: { number: id } };
    const keep = () =>
      void answered(http.POST("/api/effects/{number}/copy", { params, body: { base, change } }))
        .then((copy) => navigate(`/bench/${copy.id}`))
        .catch((fault: Error) => message.error(fault.message));
    const button = createElement(
      "button",
      { className: "link", onClick: keep },
      "Keep mine as a copy",
    );
    const content = createElement("span", null, `${sentence} `, button);
    void message.error({ duration: 20, content });
  };
  const change = (change: Change) =>
    run(
      async ({ revision: base }) => {
        const params = { path: { number: id } };
        const body = { base, change };
        const view = await answered(http.POST("/api/effects/{number}/changes", { params, body }));
        benchStore.getState().set({ made: { base, change, revision: view.revision } });
        return view;
      },
      {
        expected: (now) => (change.do === "several" ? now : expected(now, change)),
        conflict: (fault, now) => offerCopy(fault.message, now.revision, change),
      },
    );
  const params = { path: { number: id } };
  // After a lost answer the request is repeated from the same revision, so that only one change is
  // undone.
  const undo = () =>
    run(({ revision: base }) =>
      answered(http.POST("/api/effects/{number}/undo", { params, body: { base } })),
    );
  const redo = () =>
    run(({ revision: base }) =>
      answered(http.POST("/api/effects/{number}/redo", { params, body: { base } })),
    );
  const goTo = (revision: number) =>
    run(() => answered(http.POST("/api/effects/{number}/go", { params, body: { revision } })));
  const keepStage = (name: string) =>
    run(async () => {
      await http.POST("/api/effects/{number}/stages", { params, body: { name } });
      return answered(http.GET("/api/effects/{number}", { params }));
    });
  return { draft: view, problem, change, undo, redo, goTo, keepStage, waiting, gone };
}

export type ChangeDraft = ReturnType<typeof useDraft>["change"];

export type KindOf = (
  step: Pick<Step, "kind" | "macro"> | null | undefined,
) => StepKind | undefined;

/** The catalogue of steps, and the macros that the open draft runs as steps. */
export function useKinds() {
  const found = useQuery(asked.steps());
  const held = useBench((state) => state.held);
  const kinds = found.data?.kinds ?? [];
  const kindOf: KindOf = (step) =>
    step?.macro
      ? held.find((one) => one.slug === step.macro!.slug && one.version === step.macro!.version)
          ?.kind
      : kinds.find((one) => one.kind === step?.kind);
  return { kinds, mix: found.data?.mix, kindOf };
}
