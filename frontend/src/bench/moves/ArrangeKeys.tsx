import { Button } from "antd";
import styles from "./ArrangeKeys.module.css";

type How = "move" | "copy" | "reverse" | "scale" | "distribute";

interface Props {
  count: number;
  /** Seconds of a frame. */
  each: number;
  /** Numbers of the picked keys; none means all. */
  picks: number[];
  onPick: (picks: number[]) => void;
  onKey: () => void;
  onArrange: (how: How, by: number) => void;
}

/** Actions for the picked keys of a value. */
export function ArrangeKeys({ count, each, picks, onPick, onKey, onArrange }: Props) {
  const meant = picks.length || count;
  const buttons: [string, string, How, number, number][] = [
    ["←", "One frame earlier", "move", -each, 1],
    ["→", "One frame later", "move", each, 1],
    ["Reverse", "Reverse the order of the keys", "reverse", 0, 2],
    ["× ½", "Half as far apart in time", "scale", 0.5, 2],
    ["× 2", "Twice as far apart in time", "scale", 2, 2],
    ["Even", "Space them evenly", "distribute", 0, 3],
    ["Copy", "Copies that begin at the playhead", "copy", 0, 1],
  ];
  return (
    <div className={styles.arrangeKeys} role="group" aria-label="Arrange keys">
      <Button size="small" onClick={onKey}>
        Key here
      </Button>
      {picks.length > 0 && <span className="soft">{picks.length} of them:</span>}
      {buttons.map(([words, help, how, by, least]) => (
        <Button
          key={words}
          size="small"
          title={help}
          aria-label={/\w/.test(words) || words.includes("×") ? `${words}: ${help}` : help}
          disabled={meant < least}
          onClick={() => {
            onArrange(how, by);
            if (how === "copy") onPick([]);
          }}
        >
          {words}
        </Button>
      ))}
    </div>
  );
}
