import { Button } from "antd";
import type { ReelChange, Shot } from "../../api/client";
import { rateOf } from "../../player/timecode";
import { titleOf } from "../selection";
import type { FaceProps } from "./props";
import { FrameRows } from "./rows";
import { SourceRows } from "./SourceRows";
import styles from "./Face.module.css";

/** The face of one shot or several: times, source, looks. */
export function ShotFace(props: FaceProps & { shots: readonly Shot[] }) {
  const { view, change, shots, onSelect } = props;
  const shot = shots[0]!;
  const index = view.shots.findIndex((one) => one.id === shot.id);
  const names = shots.map((one) => one.id);
  const set = (more: Partial<Extract<ReelChange, { do: "set-shot" }>>) =>
    change({ do: "set-shot", shot: shot.id, ripple: true, ...more });
  return (
    <section className={styles.face} aria-label="Shot">
      <h2>{shots.length > 1 ? `${shots.length} shots` : shot.name}</h2>
      <p className="soft">
        {shots.length > 1
          ? "What you set here is set on all of them."
          : shot.missing
            ? "Its material is not here. Bring the file in again, or take the shot off."
            : shot.lasts === null
              ? "A still"
              : `${shot.lasts} frames of material`}
      </p>
      {shots.length === 1 && (
        <FrameRows
          rate={rateOf(view.rate)}
          rows={[
            ["From frame", shot.start, (start) => set({ start: Math.max(0, start) })],
            ["Length", shot.length, (length) => set({ length: Math.max(1, length) })],
            ["Black before it", shot.gap, (gap) => set({ gap: Math.max(0, gap) })],
          ]}
        />
      )}
      <SourceRows {...props} names={names} source={shot} />
      {shots.length === 1 && shot.looks.length > 0 && (
        <p className="soft">
          Looks:{" "}
          {shot.looks.map((look, k) => (
            <span key={look.id}>
              {k > 0 && " → "}
              <button className="link" onClick={() => onSelect({ kind: "look", look: look.id })}>
                {titleOf(view, look)}
              </button>
            </span>
          ))}
        </p>
      )}
      <div className={styles.ways}>
        {shots.length === 1 && (
          <>
            <Button size="small" disabled={index === 0} onClick={() => set({ at: index - 1 })}>
              Move left
            </Button>
            <Button
              size="small"
              disabled={index === view.shots.length - 1}
              onClick={() => set({ at: index + 1 })}
            >
              Move right
            </Button>
          </>
        )}
        <Button
          size="small"
          onClick={() => {
            void change({ do: "remove", names, close: true });
            onSelect(null);
          }}
        >
          Take off the strip
        </Button>
        <Button
          size="small"
          onClick={() => {
            void change({ do: "remove", names, close: false });
            onSelect(null);
          }}
        >
          Leave a gap
        </Button>
      </div>
    </section>
  );
}
