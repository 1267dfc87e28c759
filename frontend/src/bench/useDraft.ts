import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useCallback, useRef } from "react";
import { api, type DraftView, type Edit, type Problem, type StepKind } from "../api/client";
import { useBench } from "./store";

/** The draft, and ways to change it. Edits go to the server one after another, in order. */
export function useDraft(id: number) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const found = useQuery({ queryKey: ["draft", id], queryFn: () => api.draft(id) });

  const run = useCallback(
    (act: (now: DraftView) => Promise<DraftView>): Promise<DraftView | null> => {
      const next = line.current.then(async () => {
        const now = client.getQueryData<DraftView>(["draft", id]);
        if (!now) return null;
        try {
          const after = await act(now);
          client.setQueryData(["draft", id], after);
          void client.invalidateQueries({ queryKey: ["history", id] });
          return after;
        } catch (error) {
          void message.error((error as Error).message);
          if ((error as Problem).status === 409)
            await client.invalidateQueries({ queryKey: ["draft", id] });
          return null;
        } finally {
          useBench.getState().attempt(null);
        }
      });
      line.current = next;
      return next;
    },
    [client, id, message],
  );

  const edit = useCallback(
    (change: Edit) => run((now) => api.edit(id, now.revision, change)),
    [id, run],
  );
  return { draft: found.data, problem: found.error, edit, run };
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
