import type { Item } from "../../api/client";
import { titleOf } from "../selection";
import type { Ground } from "./Strip";
import { useDrag } from "./useDrag";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  item: Item;
  top: number;
  selected: boolean;
  onSelect: (more: boolean) => void;
}

interface Place {
  frame: number;
  length: number;
  row: number;
}

/** What lies on a row above: moved, stretched, lifted to another row. */
export function ItemBlock({ ground, item, top, selected, onSelect }: Props) {
  const { view, scale, change, snap } = ground;
  const end = item.begins + item.length;
  const save = (next: Place) => {
    const { source } = item;
    if (source && next.length !== item.length) {
      // A clip is trimmed: what its frames show stays where it was.
      const head = next.frame - item.begins;
      const start = Math.max(0, Math.round(source.start + head * (source.speed / 100)));
      return change({
        do: "set-shot",
        shot: item.id,
        length: next.length,
        ...(head ? { start, ripple: false } : {}),
      });
    }
    return change({ do: "set-item", item: item.id, ...next });
  };
  const select = () => selected || onSelect(false);
  const [moved, grabBody] = useDrag<Place>(scale.frame, {
    moved: (by, event) => {
      if (Math.abs(by * scale.frame) < 4 && !event.shiftKey) return null;
      const first = snap(item.begins + by, event, [item.id]);
      const last = snap(end + by, event, [item.id]);
      const nearer = Math.abs(first - item.begins - by) <= Math.abs(last - end - by);
      const frame = Math.max(0, nearer ? first : last - item.length);
      const strip = (event.target as HTMLElement).closest("[data-rows]");
      const box = strip?.getBoundingClientRect();
      const row = box
        ? Math.min(view.rows, Math.max(0, Math.floor((box.bottom - event.clientY) / 28)))
        : item.row;
      return { frame, length: item.length, row };
    },
    onDrop: save,
  });
  const [head, grabHead] = useDrag<Place>(scale.frame, {
    moved: (by, event) => {
      const frame = Math.min(Math.max(0, snap(item.begins + by, event, [item.id])), end - 1);
      return { frame, length: end - frame, row: item.row };
    },
    onStart: select,
    onDrop: save,
  });
  const [tail, grabTail] = useDrag<Place>(scale.frame, {
    moved: (by, event) => {
      const length = Math.max(1, snap(end + by, event, [item.id]) - item.begins);
      return { frame: item.begins, length, row: item.row };
    },
    onStart: select,
    onDrop: save,
  });
  const place = moved ?? head ?? tail ?? { frame: item.begins, length: item.length, row: item.row };
  const macro = item.use ? titleOf(view, item.use) : "clip";
  return (
    <div
      className={`${styles.item} ${selected ? "selected" : ""} ${item.kind === "look" ? styles.over : ""}`}
      style={{
        left: scale.x(place.frame),
        width: place.length * scale.frame,
        top: top - (place.row - item.row) * 28,
      }}
    >
      <button
        className={`bare ${styles.itemBody}`}
        onPointerDown={grabBody}
        onClick={(event) => onSelect(event.shiftKey)}
        aria-label={`${item.name}, ${macro}, ${item.length} frames, row ${item.row + 1}`}
        aria-pressed={selected}
        title="Drag to move it, up or down to another row"
      >
        <b>{item.name}</b>{" "}
        <span className="mono">{item.kind === "look" ? "over all below" : macro}</span>
      </button>
      <span className={`${styles.grip} ${styles.head}`} onPointerDown={grabHead} />
      <span className={`${styles.grip} ${styles.tail}`} onPointerDown={grabTail} />
    </div>
  );
}
