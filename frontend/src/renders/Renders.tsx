import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Progress } from "antd";
import { Link } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, query, type RenderList, type RenderView } from "../api/client";
import { Picture } from "../player/Picture";
import styles from "./Renders.module.css";

/** The queue: what waits, runs and is done; progress as it happens. */
export function Renders() {
  const client = useQueryClient();
  const found = useQuery({
    ...asked.renders(),
    // What runs is looked at often; what may be asked for elsewhere, now and then.
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
  const renders = found.data?.renders ?? [];
  return (
    <main className="page">
      <div className="page-head">
        <h1>Renders</h1>
        <span className="soft">A render goes on while you work elsewhere.</span>
      </div>
      {found.error && <p className="bad">{found.error.detail}</p>}
      {found.data && !renders.length && (
        <p className="empty">
          Nothing is rendered yet. Open an edit on the <Link to="/reel">Reel</Link> and press
          Render.
        </p>
      )}
      <div className="renders">
        {renders.map((one) => (
          <RenderRow
            key={one.id}
            render={one}
            onCancel={() => cancel.mutate({ params: { path: { number: one.id } } })}
            onAgain={() => again.mutate({ params: { path: { number: one.id } } })}
          />
        ))}
      </div>
    </main>
  );
}

interface Props {
  render: RenderView;
  onCancel: () => void;
  onAgain: () => void;
}

function RenderRow({ render, onCancel, onAgain }: Props) {
  const { state, done, total } = render;
  const last = Math.max(0, render.first + Math.min(done, total) - 1);
  // A picture every half second of film is enough to see where it is.
  const shown = state === "running" ? last - (last % 12) : last;
  const aspect = Math.min(4, Math.max(0.1, render.width / render.height));
  const under = state === "running" || state === "queued";
  return (
    <article className={styles.render} data-render={render.id} data-state={state}>
      <Picture
        url={`/api/reels/${render.reel}/${render.revision}/frame.jpg?${query({
          frame: shown,
          width: Math.round(144 * aspect),
          height: 144,
        })}`}
        alt={`Frame ${shown} of ${render.name}`}
      />
      <div>
        <b>{render.name}</b>{" "}
        <span className="soft">
          {render.form === "mp4" ? "H.264 video" : "PNG pictures, 16 bits"} · {render.width}×
          {render.height} · {total} frames · asked{" "}
          {new Date(render.asked).toLocaleTimeString("en-GB", {
            hour: "2-digit",
            minute: "2-digit",
          })}
        </span>
        <Progress
          percent={Math.round((done / total) * 100)}
          status={state === "failed" ? "exception" : state === "done" ? "success" : "normal"}
          size="small"
          aria-label={`Progress of ${render.name}`}
        />
        <p className={state === "failed" ? "bad" : "soft"} role="status">
          {words(render)} {render.message}
        </p>
      </div>
      <div className="render-actions">
        {state === "done" && (
          <Button type="primary" href={`/api/renders/${render.id}/file`} download>
            Download
          </Button>
        )}
        {under && <Button onClick={onCancel}>Cancel</Button>}
        {!under && state !== "done" && <Button onClick={onAgain}>Render again</Button>}
      </div>
    </article>
  );
}

function words(render: RenderView): string {
  const { state, done, total, speed } = render;
  if (state === "queued") return "Waiting.";
  if (state === "running") {
    const left = render.seconds_left;
    const time = left
      ? `, about ${left < 90 ? `${Math.ceil(left)} s` : `${Math.ceil(left / 60)} min`} left`
      : "";
    return `Frame ${done} of ${total}, ${speed.toFixed(1)} a second${time}.`;
  }
  if (state === "done") return `Done, ${speed.toFixed(1)} frames a second.`;
  if (state === "failed") return "It failed.";
  return "";
}
