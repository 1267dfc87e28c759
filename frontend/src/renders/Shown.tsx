import type { RenderView } from "../api/client";
import styles from "./Renders.module.css";

/** The finished file, played in the page. */
export function Shown({ render }: { render: RenderView }) {
  const url = `/api/renders/${render.id}/show`;
  return (
    <div className={styles.shown}>
      {render.plays === "film" ? (
        // The film is the user's own: there is nothing that captions could be made from.
        // eslint-disable-next-line jsx-a11y/media-has-caption
        <video src={url} controls autoPlay loop aria-label={`The film of ${render.name}`} />
      ) : (
        <img src={url} alt={`Result of ${render.name}`} />
      )}
    </div>
  );
}
