import { Input, Modal, Tabs } from "antd";
import { useState } from "react";
import glossary from "../../../docs/guide/glossary.md?raw";
import styles from "./Help.module.css";

const KEYS: readonly [string, string][] = [
  ["Space", "play, stop"],
  ["J K L", "play backwards, stop, play"],
  ["← →", "one frame back, on; with Shift ten"],
  ["Home, End", "first frame, last frame"],
  ["Ctrl+← →", "previous key, next key"],
  ["/", "add a step"],
  ["O", "turn the selected steps on or off"],
  ["Delete", "remove the picked steps, or the picked keys"],
  ["Ctrl-click", "pick several steps, as Ctrl+Enter; with Shift a run of them"],
  ["Alt+↑ ↓", "move the step in focus"],
  ["N", "write a note on the selected step, or on the effect"],
  ["E", "expose the value under the pointer, or the one in focus"],
  ["V", "next view of the monitor"],
  ["Ctrl+Z", "undo"],
  ["Ctrl+Shift+Z", "redo"],
  ["Ctrl+S", "keep a stage"],
  ["X", "on the Reel: split at the playhead"],
  ["[ ]", "on the Reel: mark in, mark out"],
  ["M", "on the Reel: a named mark"],
  ["Delete", "on the Reel: take off and close the gap; with Shift leave it"],
  ["Ctrl+C, Ctrl+V", "on the Reel: copy, and paste at the playhead"],
  ["Ctrl+A", "on the Reel: select all shots"],
  ["+ − 0", "on the Reel: closer, further away, all of it"],
  ["A", "on the Reel: snapping on or off"],
  ["B", "on the Reel, held: the picture before what is selected"],
  ["?", "this list"],
];

/** Rows of the glossary's tables: a word, and what it means; a heading has no meaning. */
const WORDS = glossary
  .split("\n")
  .map((line) => /^\| (?!word|mark|unit)([^-|].*?) \| (.*) \|$/.exec(line))
  .filter((row) => row !== null)
  .map((row) => ({ word: plainly(row[1]!), meaning: plainly(row[2]!) }));

function plainly(text: string): string {
  return text.replaceAll("*", "");
}

/** Keys and words, for whoever asks. */
export function Help({ onClose }: { onClose: () => void }) {
  return (
    <Modal title="Help" open onCancel={onClose} footer={null} width={560}>
      <Tabs
        items={[
          { key: "keys", label: "Keys", children: <Keys /> },
          { key: "words", label: "Words", children: <Words /> },
        ]}
      />
    </Modal>
  );
}

function Keys() {
  return (
    <table className={styles.keys}>
      <tbody>
        {KEYS.map(([key, does]) => (
          <tr key={key}>
            <th scope="row" className="mono">
              {key}
            </th>
            <td>{does}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Words() {
  const [text, setText] = useState("");
  const wanted = text.trim().toLowerCase();
  const found = WORDS.filter(
    ({ word, meaning }) => !wanted || `${word} ${meaning}`.toLowerCase().includes(wanted),
  );
  return (
    <>
      <Input
        autoFocus
        allowClear
        type="search"
        aria-label="Find a word"
        placeholder="Find a word"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <dl className={styles.words}>
        {found.map(({ word, meaning }) => (
          <div key={word}>
            <dt>{word}</dt>
            <dd>{meaning}</dd>
          </div>
        ))}
      </dl>
      {!found.length && <p className="soft">No word like that. Try a shorter one.</p>}
    </>
  );
}
