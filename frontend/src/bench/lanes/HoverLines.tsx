import { useEffect, useRef, useState } from "react";
import type { DraftView } from "../../api/client";
import { useBench } from "../store";
import styles from "./HoverLines.module.css";

interface Line {
  name: string;
  path: string;
  feeds: boolean;
}

const NONE: Line[] = [];

/** Thin lines from the card under the pointer to the steps that it reads and the steps that read
 * it. */
export function HoverLines({ draft }: { draft: DraftView }) {
  const hovered = useBench((state) => state.hovered);
  const area = useRef<SVGSVGElement>(null);
  const [lines, setLines] = useState(NONE);
  useEffect(() => {
    const ground = area.current?.parentElement;
    if (!hovered || !ground) return setLines(NONE);
    const box = ground.getBoundingClientRect();
    const at = (name: string) => {
      const card =
        ground.querySelector(`[data-place="${name}"]`) ??
        ground.querySelector(`[data-fold][data-lane="${name.split(".")[0]}"]`);
      return card?.getBoundingClientRect();
    };
    const own = at(hovered);
    if (!own) return setLines(NONE);
    const between = (from: DOMRect, to: DOMRect) => {
      if (from.left === to.left) {
        // In one lane: down its left edge, which is free.
        const edge = from.left - box.left;
        const [high, low] = [from.top + 13 - box.top, to.top + 13 - box.top];
        return `M${edge},${high} C${edge - 9},${high} ${edge - 9},${low} ${edge},${low}`;
      }
      const left = from.left <= to.left;
      const x1 = (left ? from.right : from.left) - box.left;
      const x2 = (left ? to.left : to.right) - box.left;
      const y1 = from.top + Math.min(60, from.height / 2) - box.top;
      const y2 = to.top + Math.min(60, to.height / 2) - box.top;
      const bend = Math.max(18, Math.abs(x2 - x1) / 2);
      const second = left ? x2 - bend : x2 + bend;
      return `M${x1},${y1} C${left ? x1 + bend : x1 - bend},${y1} ${second},${y2} ${x2},${y2}`;
    };
    const found: Line[] = [];
    for (const name of draft.reads[hovered] ?? []) {
      const from = at(name);
      if (from) found.push({ name, path: between(from, own), feeds: false });
    }
    for (const [name, from] of Object.entries(draft.reads)) {
      const to = from.includes(hovered) ? at(name) : undefined;
      if (to) found.push({ name, path: between(own, to), feeds: true });
    }
    setLines(found);
  }, [hovered, draft]);
  return (
    <svg className={styles.hoverLines} ref={area} aria-hidden>
      {lines.map((line) => (
        <path
          key={`${line.name}-${line.feeds}`}
          className={line.feeds ? styles.feedsLine : "reads-line"}
          data-to={line.name}
          d={line.path}
        />
      ))}
    </svg>
  );
}
