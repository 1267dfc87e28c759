import { useState } from "react";
import type { Item, ReelView, Use } from "../../api/client";
import { pinnedOf, titleOf } from "../selection";
import { Grips } from "./Grips";
import type { Ground } from "./ground";
import { useStripDrag } from "./useStripDrag";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  item: Item;
  top: number;
  selected: boolean;
  onSelect: (name: string, more: boolean) => void;
}

interface Place {
  frame: number;
  length: number;
  row: number;
}

/** The text that a title shows: its first control of that kind. */
function textOf(view: ReelView, use: Use) {
  const control = pinnedOf(view, use)?.controls.find((one) => one.type === "text");
  if (!control) return null;
  return { slug: control.slug, value: String(use.settings[control.slug] ?? control.default) };
}

/** An item of a row above: it can be moved, stretched, or lifted to another row. */
export function ItemBlock({ ground, item, top, selected, onSelect }: Props) {
  const { view, scale, change, snap } = ground;
  const end = item.begins + item.length;
  const save = (next: Place) => {
    // A clip is trimmed: its remaining frames stay the same.
    if (item.source && next.length !== item.length) {
      const side =
        next.frame === item.begins
          ? { tail: next.length - item.length }
          : { head: next.frame - item.begins };
      return change({ do: "set-shot", shot: item.id, ripple: false, ...side });
    }
    return change({ do: "set-item", item: item.id, ...next });
  };
  const select = () => selected || onSelect(item.id, false);
  const [moved, grabBody] = useStripDrag<Place>(scale.frame, {
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
  const [head, grabHead] = useStripDrag<Place>(scale.frame, {
    moved: (by, event) => {
      const least = Math.max(0, item.begins - (item.source?.spare_before ?? Infinity));
      const frame = Math.min(Math.max(least, snap(item.begins + by, event, [item.id])), end - 1);
      return { frame, length: end - frame, row: item.row };
    },
    onStart: select,
    onDrop: save,
  });
  const [tail, grabTail] = useStripDrag<Place>(scale.frame, {
    moved: (by, event) => {
      const most = end + (item.source?.spare_after ?? Infinity);
      const last = Math.min(snap(end + by, event, [item.id]), most);
      const length = Math.max(1, last - item.begins);
      return { frame: item.begins, length, row: item.row };
    },
    onStart: select,
    onDrop: save,
  });
  const place = moved ?? head ?? tail ?? { frame: item.begins, length: item.length, row: item.row };
  const text = item.use && textOf(view, item.use);
  const [typing, setTyping] = useState(false);
  const macro = item.use ? titleOf(view, item.use) : "clip";
  // Beside its name: its text, or its macro, unless the name says the same.
  const besides = [text?.value.replace(/\s+/g, " "), macro].find((one) => one && one !== item.name);
  return (
    <div
      className={`${styles.item} ${selected ? "selected" : ""} ${item.kind === "look" ? styles.over : ""}`}
      style={{
        left: scale.x(place.frame),
        width: place.length * scale.frame,
        top: top - (place.row - item.row) * 28,
      }}
    >
      {typing && text && item.use && (
        <input
          className={styles.typed}
          autoFocus
          aria-label={`Text of ${item.name}`}
          defaultValue={text.value}
          onFocus={(event) => event.target.select()}
          onKeyDown={(event) => {
            if (event.key === "Escape") setTyping(false);
            if (event.key === "Enter") event.currentTarget.blur();
          }}
          onBlur={(event) => {
            setTyping(false);
            const value = event.target.value;
            if (value !== text.value)
              void change({ do: "set-use", uses: [item.id], settings: { [text.slug]: value } });
          }}
        />
      )}
      <button
        className={`bare ${styles.itemBody}`}
        onPointerDown={grabBody}
        onClick={(event) => {
          // Enter on a selected title opens its text.
          if (event.detail === 0 && selected && text) setTyping(true);
          else onSelect(item.id, event.shiftKey);
        }}
        onDoubleClick={() => text && setTyping(true)}
        aria-label={`${item.name}, ${macro}, ${item.length} frames, row ${item.row + 1}`}
        aria-pressed={selected}
        title={
          text
            ? "Drag to move it, up or down to another row. Double-click, or Enter, to type its text."
            : "Drag to move it, up or down to another row"
        }
      >
        <b>{item.name}</b>{" "}
        <span className="mono">{item.kind === "look" ? "over all below" : besides}</span>
      </button>
      <Grips
        head={grabHead}
        tail={grabTail}
        titles={["Drag to change where it begins", "Drag to change where it ends"]}
      />
    </div>
  );
}
