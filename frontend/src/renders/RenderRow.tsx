import { Button, Progress } from "antd";
import { useState } from "react";
import { query, type RenderView } from "../api/client";
import { Picture } from "../player/Picture";
import styles from "./Renders.module.css";
import { Shown } from "./Shown";
import { size } from "./size";

interface Props {
  render: RenderView;
  onCancel: () => void;
  onAgain: () => void;
  onHere: () => void;
}

/** One render: its progress, its facts and its actions. */
export function RenderRow({ render, onCancel, onAgain, onHere }: Props) {
  const { state, done, total } = render;
  const [showing, setShowing] = useState(false);
  const last = Math.max(0, render.first + Math.min(done, total) - 1);
  // A picture for each half second of film is enough to show the progress.
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
          {render.format} · {render.width}×{render.height} · {total}{" "}
          {total === 1 ? "frame" : "frames"}
          {render.bytes > 0 && ` · ${size(render.bytes)}`}
          {render.scheduler && " · by other machines"} · asked{" "}
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
        {render.told.length > 0 && (
          <details className={styles.told}>
            <summary>
              {render.told.length === 1 ? "1 note" : `${render.told.length} notes`} from the check
              before it
            </summary>
            <ul>
              {render.told.map((sentence) => (
                <li key={sentence}>{sentence}</li>
              ))}
            </ul>
          </details>
        )}
        {showing && <Shown render={render} />}
      </div>
      <div className={styles.actions}>
        {render.plays && (
          <Button aria-expanded={showing} onClick={() => setShowing(!showing)}>
            {showing ? "Hide it" : render.plays === "film" ? "Show the film" : "Show the picture"}
          </Button>
        )}
        {state === "done" && (
          <Button type="primary" href={`/api/renders/${render.id}/file`} download>
            Download
          </Button>
        )}
        {render.scheduler && state !== "done" && (
          <Button onClick={onHere} title="Make what is left of it on this machine">
            Go on here
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
  if (state === "done")
    return speed > 0 ? `Done, ${speed.toFixed(1)} frames a second.` : "Done: nothing had changed.";
  if (state === "failed") return "It failed.";
  return "";
}
