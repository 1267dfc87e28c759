import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useCallback, useRef, useState } from "react";
import { api, type Problem, type ReelEdit, type ReelView } from "../api/client";

/** The edit as it stands, ways to change it, and a change that is being tried. */
export function useReel(id: number) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [trying, setTrying] = useState<ReelEdit | null>(null);
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const found = useQuery({ queryKey: ["reel", id], queryFn: () => api.reel(id) });
  const run = useCallback(
    (act: (now: ReelView) => Promise<ReelView>): Promise<ReelView | null> => {
      const next = line.current.then(async () => {
        const now = client.getQueryData<ReelView>(["reel", id]);
        if (!now) return null;
        try {
          const after = await act(now);
          client.setQueryData(["reel", id], after);
          return after;
        } catch (error) {
          void message.error((error as Error).message);
          if ((error as Problem).status === 409)
            await client.invalidateQueries({ queryKey: ["reel", id] });
          return null;
        } finally {
          setTrying(null);
        }
      });
      line.current = next;
      return next;
    },
    [client, id, message],
  );
  const edit = useCallback(
    (change: ReelEdit) => run((now) => api.editReel(id, now.revision, change)),
    [id, run],
  );
  return { view: found.data, problem: found.error, edit, run, trying, setTrying };
}

export type EditReel = ReturnType<typeof useReel>["edit"];

export type Selection = { kind: "cut"; left: string } | { kind: "shot"; shot: string } | null;
