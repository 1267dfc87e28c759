import { Button, Input } from "antd";
import type { Control } from "../../api/client";
import type { ChangeDraft } from "../useDraft";
import styles from "./Faceplate.module.css";

interface Props {
  control: Control;
  change: ChangeDraft;
}

/** The words of a choice: renamed, left out, added and put in order. */
export function Words({ control, change }: Props) {
  const words = control.options ?? [];
  const put = (next: { word: string; of?: string | null }[]) =>
    void change({ do: "set-words", slug: control.slug, words: next });
  const kept = words.map((word) => ({ word, of: word }));
  const swapped = (at: number) => {
    const next = [...kept];
    [next[at - 1], next[at]] = [next[at]!, next[at - 1]!];
    return next;
  };
  let fresh = "New word";
  for (let count = 2; words.includes(fresh); count += 1) fresh = `New word ${count}`;
  return (
    <div className={styles.line}>
      <span>words</span>
      <div className={styles.words}>
        {words.map((word, at) => (
          <span key={word} className={styles.word}>
            <Input
              size="small"
              aria-label={`${control.label}: word ${at + 1}`}
              defaultValue={word}
              onBlur={(event) => {
                const next = event.target.value.trim();
                if (next && next !== word)
                  put(kept.map((one, k) => (k === at ? { word: next, of: word } : one)));
              }}
              onPressEnter={(event) => event.currentTarget.blur()}
            />
            <Button
              size="small"
              type="text"
              disabled={at === 0}
              aria-label={`${word}: move up`}
              onClick={() => put(swapped(at))}
            >
              ↑
            </Button>
            <Button
              size="small"
              type="text"
              disabled={words.length < 2}
              aria-label={`${word}: remove`}
              onClick={() => put(kept.filter((_, k) => k !== at))}
            >
              ×
            </Button>
          </span>
        ))}
        <Button size="small" onClick={() => put([...kept, { word: fresh }])}>
          Add a word
        </Button>
      </div>
    </div>
  );
}
