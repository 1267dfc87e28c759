import { named, type Cut } from "../selection";
import type { Ground } from "./ground";
import { useStripDrag } from "./useStripDrag";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  cut: Cut;
  selected: boolean;
  label: string;
  onSelect: (cut: Cut, more: boolean) => void;
}

/** A cut without a join: click to select it, drag to roll it. */
export function CutGrip({ ground, cut, selected, label, onSelect }: Props) {
  const { view, scale, change, snap } = ground;
  const left = named(view, cut.left);
  const right = named(view, cut.right);
  const at = right?.begins ?? (left ? left.begins + left.length : 0);
  const [by, grab] = useStripDrag<number>(scale.frame, {
    moved: (by, event) => (left && right ? snap(at + by, event, [left.id, right.id]) - at : null),
    onDrop: (by) => (by && left ? change({ do: "roll-cut", left: left.id, by }) : undefined),
  });
  const both = left && right;
  return (
    <button
      className={`bare ${styles.cut} ${selected ? "selected" : ""} ${both ? "" : styles.free}`}
      style={{ left: scale.x(at + (by ?? 0)) + (both ? -12 : left ? -18 : -2) }}
      aria-label={both ? `Cut between ${left.name} and ${right.name}` : label}
      aria-pressed={selected}
      title={
        both
          ? "Select the cut, or drag to roll it. Shift-click picks several."
          : "Select it, to put a macro here"
      }
      onPointerDown={both ? grab : undefined}
      onClick={(event) => onSelect(cut, event.shiftKey)}
    >
      {by !== null && <span className={`${styles.trim} mono`}>{by > 0 ? `+${by}` : by}</span>}
    </button>
  );
}
