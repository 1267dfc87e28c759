import { useQuery } from "@tanstack/react-query";
import { asked } from "../api/asked";

import type { Ease } from "../api/values";
import styles from "./EaseCurve.module.css";

/** The small curve of an ease, as it is computed; ``bare`` is only its path, in a unit square. */
export function EaseCurve({
  ease,
  size = 22,
  bare,
}: {
  ease: Ease;
  size?: number;
  bare?: boolean;
}) {
  const found = useQuery(asked.eases());
  let path = "M0,1 L1,0";
  if (ease === "hold") path = "M0,1 L1,1 L1,0";
  else if (ease === "jump") path = "M0,1 L0,0 L1,0";
  else if (typeof ease === "object" && "bezier" in ease) {
    const [x1, y1, x2, y2] = ease.bezier;
    path = `M0,1 C${x1},${1 - y1} ${x2},${1 - y2} 1,0`;
  } else if (typeof ease === "object") {
    const one = found.data?.eases.find(
      (each) => each.into === (ease.into ?? "") && each.out === (ease.out ?? ""),
    );
    const last = (one?.samples.length ?? 1) - 1;
    if (one) path = `M${one.samples.map((value, at) => `${at / last},${1 - value}`).join(" L")}`;
  }
  const line = <path d={path} vectorEffect="non-scaling-stroke" />;
  if (bare) return <g className={styles.easeCurve}>{line}</g>;
  return (
    <svg
      className={styles.easeCurve}
      width={size}
      height={size}
      viewBox="-0.15 -0.4 1.3 1.8"
      aria-hidden
    >
      {line}
    </svg>
  );
}
