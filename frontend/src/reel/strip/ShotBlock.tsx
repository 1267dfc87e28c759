import type { Shot } from "../../api/client";
import { Picture } from "../../player/Picture";
import { pictureFrames } from "./geometry";
import type { Ground } from "./Strip";
import { useDrag } from "./useDrag";
import { Waveform } from "./Waveform";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  shot: Shot;
  selected: boolean;
  onSelect: (more: boolean) => void;
}

interface Trim {
  start: number;
  length: number;
  /** Whether what follows moves along. */
  ripple: boolean;
}

/** A shot: trimmed at its ends, moved by its body, slipped with Ctrl held. */
export function ShotBlock({ ground, shot, selected, onSelect }: Props) {
  const { view, rate, scale, change, onTry, snap } = ground;
  const pace = shot.direction === "freeze" ? 0 : shot.speed / 100;
  const start = (next: Trim) => Math.max(0, Math.round(next.start));
  const save = (next: Trim) =>
    change({
      do: "set-shot",
      shot: shot.id,
      length: next.length,
      ripple: next.ripple,
      ...(start(next) !== shot.start ? { start: start(next) } : {}),
    });
  const trimmed =
    (side: "head" | "tail") =>
    (by: number, event: PointerEvent): Trim | null => {
      const edge = side === "head" ? shot.begins : shot.begins + shot.length;
      const shift = snap(edge + by, event, [shot.id]) - edge;
      const forwards = shot.direction !== "backwards";
      if (side === "tail") {
        const most = shot.spare_after === null ? Infinity : shot.length + shot.spare_after;
        const length = Math.min(Math.max(1, shot.length + shift), most);
        const moved = forwards ? 0 : (shot.length - length) * pace;
        return { start: shot.start + moved, length, ripple: !event.shiftKey };
      }
      const least = shot.spare_before === null ? -Infinity : -shot.spare_before;
      const by_ = Math.min(Math.max(shift, least), shot.length - 1);
      const moved = forwards ? by_ * pace : 0;
      return { start: shot.start + moved, length: shot.length - by_, ripple: !event.shiftKey };
    };
  const select = () => selected || onSelect(false);
  const [head, grabHead] = useDrag<Trim>(scale.frame, {
    moved: trimmed("head"),
    onStart: select,
    onDrop: save,
  });
  const [tail, grabTail] = useDrag<Trim>(scale.frame, {
    moved: trimmed("tail"),
    onStart: select,
    onDrop: save,
  });
  const [slip, grabSlip] = useDrag<number>(scale.frame, {
    moved: (by) => {
      const most = shot.spare_after === null ? 0 : shot.spare_after * pace;
      const least = shot.spare_before === null ? 0 : -shot.spare_before * pace;
      return Math.round(Math.min(Math.max(-by * pace, least), most));
    },
    onMove: (by) => onTry({ do: "set-shot", shot: shot.id, start: shot.start + by }),
    onDrop: (by) => change({ do: "set-shot", shot: shot.id, start: shot.start + by }),
  });
  const [place, grabBody] = useDrag<{ at: number; by: number }>(scale.frame, {
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
  const length = trim?.length ?? shot.length;
  const from = (trim ? start(trim) : shot.start) + (slip ?? 0);
  const left = scale.x(shot.begins + (head && !head.ripple ? shot.length - head.length : 0));
  const wide = length * scale.frame;
  const seconds = (at: number) => {
    const forward = shot.direction === "backwards" ? length - 1 - at : at;
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
          onClick={(event) => onSelect(event.shiftKey)}
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
        <span
          data-grip="yes"
          className={`${styles.grip} ${styles.head}`}
          onPointerDown={grabHead}
          title="Drag to trim the beginning; with Shift the rest stays where it is"
        />
        <span
          data-grip="yes"
          className={`${styles.grip} ${styles.tail}`}
          onPointerDown={grabTail}
          title="Drag to trim the end; with Shift the rest stays where it is"
        />
        <Waveform source={shot} length={length} from={from} rate={rate} wide={wide} />
      </div>
    </>
  );
}
