import { Input, Modal, Tabs } from "antd";
import { Fragment, useState } from "react";
import glossary from "../../../docs/guide/glossary.md?raw";
import { helpRows } from "./keymap";
import styles from "./Help.module.css";

/** Rows of the glossary's tables: a word and its meaning; a heading has no meaning. */
const WORDS = glossary
  .split("\n")
  .map((line) => /^\| (?!word|mark|unit)([^-|].*?) \| (.*) \|$/.exec(line))
  .filter((row) => row !== null)
  .map((row) => ({ word: plainly(row[1]!), meaning: plainly(row[2]!) }));

function plainly(text: string): string {
  return text.replaceAll("*", "");
}

/** The help: keys and words. */
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
        {helpRows().map(({ heading, rows }) => (
          <Fragment key={heading}>
            <tr>
              <th scope="rowgroup" colSpan={2}>
                {heading}
              </th>
            </tr>
            {rows.map(({ shown, does }) => (
              <tr key={does}>
                <th scope="row" className="mono">
                  {shown}
                </th>
                <td>{does}</td>
              </tr>
            ))}
          </Fragment>
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
