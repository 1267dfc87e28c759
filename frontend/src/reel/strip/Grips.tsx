import styles from "./Strip.module.css";

type Grab = (event: React.PointerEvent) => void;

interface Props {
  head: Grab;
  tail: Grab;
  /** Titles of the beginning and the end. */
  titles: readonly [head: string, tail: string];
}

/** The two ends of a block on the strip, to drag. */
export function Grips({ head, tail, titles }: Props) {
  return (["head", "tail"] as const).map((side, k) => (
    <span
      key={side}
      data-grip="yes"
      className={`${styles.grip} ${styles[side]}`}
      onPointerDown={k ? tail : head}
      title={titles[k]!}
    />
  ));
}
