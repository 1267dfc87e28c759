import type { JoinView } from "../../api/client";
import { named, titleOf, type Cut } from "../selection";
import { Grips } from "./Grips";
import type { Ground } from "./ground";
import { useStripDrag } from "./useStripDrag";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  cut: Cut;
  join: JoinView;
  selected: boolean;
  label: string;
  onSelect: (cut: Cut, more: boolean) => void;
}

/** A join as an overlap, with the spare frames of its shots. */
export function JoinBlock({ ground, cut, join, selected, label, onSelect }: Props) {
  const { view, scale, change, onTry, snap } = ground;
  const whole = join.end - join.first;
  const both = join.cut > join.first && join.cut < join.end ? 2 : 1;
  const stretch = (way: 1 | -1) => ({
    moved: (by: number, event: PointerEvent) => {
      const edge = way > 0 ? join.end : join.first;
      const moved = snap(edge + by, event, [cut.left ?? "", cut.right ?? ""]) - edge;
      return Math.max(2, whole + way * both * moved);
    },
    onStart: () => selected || onSelect(cut, false),
    onMove: (length: number) => onTry({ do: "set-join", join: join.id, length }),
    onDrop: (length: number) =>
      length === whole ? undefined : change({ do: "set-join", join: join.id, length }),
  });
  const [head, grabHead] = useStripDrag<number>(scale.frame, stretch(-1));
  const [tail, grabTail] = useStripDrag<number>(scale.frame, stretch(1));
  const frames = head ?? tail ?? whole;
  const before = Math.round((join.cut - join.first) * (frames / whole));
  const { handles } = join;
  const spare = (need: number, there: number | null) =>
    there === null ? 0 : Math.max(0, Math.min(there - need, 200)) * scale.frame;
  const title = titleOf(view, join);
  const ends = [cut.left, cut.right].map((name) => named(view, name)?.name).filter(Boolean);
  const where = ends.length === 2 ? `between ${ends.join(" and ")}` : label;
  const right = spare(handles.right_needs, handles.right_spare);
  return (
    <>
      <span
        className={styles.handle}
        style={{
          left: scale.x(join.end),
          width: spare(handles.left_needs, handles.left_spare),
        }}
        title="Frames the first shot has to spare"
      />
      <span
        className={styles.handle}
        style={{ left: scale.x(join.first) - right, width: right }}
        title="Frames the second shot has to spare"
      />
      <div
        className={`${styles.join} ${selected ? "selected" : ""} ${handles.short ? styles.short : ""}`}
        style={{ left: scale.x(join.cut - before), width: frames * scale.frame }}
      >
        <button
          className={`bare ${styles.joinBody}`}
          onClick={(event) => onSelect(cut, event.shiftKey)}
          aria-label={`${title} · ${whole} frames, ${where}`}
          aria-pressed={selected}
        >
          <span>
            {title} · <span className="mono">{frames}</span>
            {handles.short && !join.hold && " · short"}
          </span>
        </button>
        <Grips head={grabHead} tail={grabTail} titles={["Drag to stretch", "Drag to stretch"]} />
      </div>
    </>
  );
}
