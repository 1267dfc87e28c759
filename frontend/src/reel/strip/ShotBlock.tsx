import type { Shot } from "../../api/client";
import { Picture } from "../../player/Picture";
import { pictureFrames } from "./geometry";
import { Grips } from "./Grips";
import type { Ground } from "./ground";
import { useStripDrag } from "./useStripDrag";
import { Waveform } from "./Waveform";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  shot: Shot;
  selected: boolean;
  onSelect: (name: string, more: boolean) => void;
}

interface Trim {
  side: "head" | "tail";
  /** Frames of the edit that this end moves by. */
  by: number;
  /** Whether later shots move along. */
  ripple: boolean;
}

/** A shot: drag its ends to trim it, its body to move it, with Ctrl to slip it. */
export function ShotBlock({ ground, shot, selected, onSelect }: Props) {
  const { view, rate, scale, change, onTry, snap } = ground;
  const forwards = shot.direction !== "backwards";
  const pace = shot.direction === "freeze" ? 0 : shot.speed / 100;
  const save = ({ side, by, ripple }: Trim) =>
    by ? change({ do: "set-shot", shot: shot.id, [side]: by, ripple }) : undefined;
  const trimmed =
    (side: "head" | "tail") =>
    (moved: number, event: PointerEvent): Trim => {
      const edge = side === "head" ? shot.begins : shot.begins + shot.length;
      const shift = snap(edge + moved, event, [shot.id]) - edge;
      const least = side === "head" ? -(shot.spare_before ?? Infinity) : 1 - shot.length;
      const most = side === "head" ? shot.length - 1 : (shot.spare_after ?? Infinity);
      return { side, by: Math.min(Math.max(shift, least), most), ripple: !event.shiftKey };
    };
  const select = () => selected || onSelect(shot.id, false);
  const [head, grabHead] = useStripDrag<Trim>(scale.frame, {
    moved: trimmed("head"),
    onStart: select,
    onDrop: save,
  });
  const [tail, grabTail] = useStripDrag<Trim>(scale.frame, {
    moved: trimmed("tail"),
    onStart: select,
    onDrop: save,
  });
  const [slip, grabSlip] = useStripDrag<number>(scale.frame, {
    moved: (by) =>
      Math.round(Math.min(Math.max(by, -(shot.spare_after ?? 0)), shot.spare_before ?? 0)),
    onMove: (by) => onTry({ do: "set-shot", shot: shot.id, slip: by, ripple: true }),
    onDrop: (by) => change({ do: "set-shot", shot: shot.id, slip: by, ripple: true }),
  });
  const [place, grabBody] = useStripDrag<{ at: number; by: number }>(scale.frame, {
    moved: (by) => {
      if (Math.abs(by * scale.frame) < 6) return null;
      const middle = shot.begins + shot.length / 2 + by;
      const others = view.shots.filter((one) => one.id !== shot.id);
      return { at: others.filter((one) => one.begins + one.length / 2 < middle).length, by };
    },
    onDrop: ({ at }) =>
      view.shots[at]?.id === shot.id ? undefined : change({ do: "set-shot", shot: shot.id, at }),
  });
  const trim = head ?? tail;
  const length = shot.length + (trim ? (trim.side === "head" ? -trim.by : trim.by) : 0);
  // The start in the material moves with the end that shows it, and opposite to a slip.
  const first = trim?.side === (forwards ? "head" : "tail") ? trim.by : 0;
  const moved = (forwards ? first : -first) + (forwards ? -1 : 1) * (slip ?? 0);
  const from = Math.max(0, Math.round(shot.start + moved * pace));
  const left = scale.x(shot.begins + (head && !head.ripple ? head.by : 0));
  const wide = length * scale.frame;
  const seconds = (at: number) => {
    const forward = forwards ? at : length - 1 - at;
    return Math.max(0, (from + forward * pace) / rate).toFixed(6);
  };
  const flags = [
    shot.direction !== "forwards" && shot.direction,
    shot.direction !== "freeze" && shot.speed !== 100 && `${Number(shot.speed.toFixed(1))} %`,
    shot.missing && "missing",
  ].filter(Boolean);
  return (
    <>
      {shot.gap > 0 && (
        <span
          className={styles.gap}
          style={{ left: scale.x(shot.begins - shot.gap), width: shot.gap * scale.frame }}
        >
          {shot.gap * scale.frame > 32 && "gap"}
        </span>
      )}
      <div
        className={`${styles.shot} ${selected ? "selected" : ""} ${place ? styles.moving : ""}`}
        style={{ left: left + (place?.by ?? 0) * scale.frame, width: wide }}
      >
        <button
          className={`bare ${styles.shotBody}`}
          onPointerDown={(event) => (event.ctrlKey || event.metaKey ? grabSlip : grabBody)(event)}
          onClick={(event) => onSelect(shot.id, event.shiftKey)}
          aria-label={`Shot ${shot.name}, ${length} frames`}
          aria-pressed={selected}
          title="Drag to move it, with Ctrl to slip what it shows. Shift-click picks several."
        >
          {pictureFrames(length, wide).map((at, k) => (
            <Picture
              key={k}
              url={`/api/materials/${shot.material}/picture.jpg?seconds=${seconds(at)}&width=256&height=144`}
              alt=""
            />
          ))}
        </button>
        <b>
          {shot.name}
          {flags.length > 0 && <em> · {flags.join(", ")}</em>}
        </b>
        {(trim ?? slip) !== null && (
          <span className={`${styles.trim} mono`}>
            from {from}, {length} frames{trim && !trim.ripple ? ", the rest stays" : ""}
          </span>
        )}
        <Grips
          head={grabHead}
          tail={grabTail}
          titles={[
            "Drag to trim the beginning; with Shift the rest stays where it is",
            "Drag to trim the end; with Shift the rest stays where it is",
          ]}
        />
        <Waveform source={shot} length={length} from={from} rate={rate} wide={wide} />
      </div>
    </>
  );
}
