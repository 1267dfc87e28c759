import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { Link } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, type RenderList } from "../api/client";
import { RenderRow } from "./RenderRow";
import styles from "./Renders.module.css";
import { size } from "./size";
import { Where } from "./Where";

/** The queue: waiting, running and finished renders, with live progress. */
export function Renders() {
  const client = useQueryClient();
  const found = useQuery({
    ...asked.renders(),
    // A running render is polled often; new renders from other windows, rarely.
    refetchInterval: ({ state }) =>
      state.data?.renders.some((one) => one.state === "running" || one.state === "queued")
        ? 500
        : 3000,
  });
  const listed = {
    onSuccess: (after: RenderList) => client.setQueryData(asked.renders().queryKey, after),
  };
  const cancel = $api.useMutation("post", "/api/renders/{number}/cancel", listed);
  const again = $api.useMutation("post", "/api/renders/{number}/again", listed);
  const here = $api.useMutation("post", "/api/renders/{number}/here", listed);
  const empty = $api.useMutation("post", "/api/renders/kept/empty", listed);
  const renders = found.data?.renders ?? [];
  const kept = found.data?.kept_bytes ?? 0;
  return (
    <main className="page">
      <div className="page-head">
        <h1>Renders</h1>
        <span className="soft">A render goes on while you work elsewhere.</span>
      </div>
      <Where />
      {found.error && <p className="bad">{found.error.detail}</p>}
      {found.data && !renders.length && (
        <p className="empty">
          Nothing is rendered yet. Open an edit on the <Link to="/reel">Reel</Link> and press
          Render.
        </p>
      )}
      {kept > 0 && (
        <p className={`soft ${styles.kept}`}>
          {size(kept)} of finished stretches are kept, so that a render that is asked for again
          takes only what has changed.{" "}
          <Button size="small" loading={empty.isPending} onClick={() => empty.mutate({})}>
            Empty them
          </Button>
        </p>
      )}
      <div className="renders">
        {renders.map((one) => (
          <RenderRow
            key={one.id}
            render={one}
            onCancel={() => cancel.mutate({ params: { path: { number: one.id } } })}
            onHere={() => here.mutate({ params: { path: { number: one.id } } })}
            onAgain={() => again.mutate({ params: { path: { number: one.id } } })}
          />
        ))}
      </div>
    </main>
  );
}
