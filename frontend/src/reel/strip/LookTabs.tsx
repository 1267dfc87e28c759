import type { Shot } from "../../api/client";
import { titleOf } from "../selection";
import type { Ground } from "./ground";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  /** The visible shots. */
  shots: readonly Shot[];
  selected: string | null;
  onSelect: (look: string) => void;
  onAdd: (name: string) => void;
}

/** The width of tabs with these names, and of one to add another. */
const roomOf = (names: readonly string[]) =>
  names.reduce((sum, name) => sum + name.length * 6.2 + 24, 90);

/** Looks as tabs under their shot, in the order in which they work. */
export function LookTabs({ ground, shots, selected, onSelect, onAdd }: Props) {
  const { view, scale } = ground;
  return (
    <div className={styles.looks}>
      {shots.map((one) => (
        <span
          key={one.id}
          className={styles.tabs}
          style={{ left: scale.x(one.begins) + 6, width: one.length * scale.frame - 8 }}
        >
          {one.looks.map((look) => (
            <button
              key={look.id}
              className={`bare ${styles.tab} ${selected === look.id ? "selected" : ""}`}
              aria-pressed={selected === look.id}
              aria-label={`${titleOf(view, look)} on ${one.name}${look.on ? "" : ", off"}`}
              onClick={() => onSelect(look.id)}
            >
              {look.on ? titleOf(view, look) : <s>{titleOf(view, look)}</s>}
            </button>
          ))}
          {one.length * scale.frame > roomOf(one.looks.map((look) => titleOf(view, look))) && (
            <button
              className={`bare ${styles.tab} ${styles.add}`}
              aria-label={`Add a look to ${one.name}`}
              onClick={() => onAdd(one.id)}
            >
              add a look…
            </button>
          )}
        </span>
      ))}
    </div>
  );
}
