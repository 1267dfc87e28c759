import { Input, Modal } from "antd";
import { useState } from "react";
import type { DraftView } from "../../api/client";
import type { ChangeDraft } from "../useDraft";
import styles from "./Notes.module.css";

interface Pinned {
  lane?: string;
  step?: string;
}

const same = (note: { lane?: string | null; step?: string | null }, { lane, step }: Pinned) =>
  (note.lane ?? undefined) === lane && (note.step ?? undefined) === step;

/** The notes pinned to the effect, a lane or a step; click one to change it. */
export function NotesOf(props: {
  draft: DraftView;
  lane?: string;
  step?: string;
  onNote: (lane: string, step?: string) => void;
}) {
  const { draft, lane, step, onNote } = props;
  const notes = (draft.effect.notes ?? []).filter((note) => same(note, { lane, step }));
  return notes.map((note) => (
    <button
      className={`bare ${styles.laneNote}`}
      key={note.text}
      title="A note: click to change it"
      onClick={() => onNote(lane ?? "", step)}
    >
      {note.text}
    </button>
  ));
}

/** Writes the note of the effect, a lane or a step; an empty text removes it. */
export function NoteDialog(props: {
  draft: DraftView;
  pinned: Pinned;
  what: string;
  change: ChangeDraft;
  onClose: () => void;
}) {
  const { draft, pinned, what, change, onClose } = props;
  const notes = draft.effect.notes ?? [];
  const before = notes.filter((note) => same(note, pinned)).map((note) => note.text);
  const [text, setText] = useState(before.join("\n\n"));
  const keep = () => {
    const others = notes.filter((note) => !same(note, pinned));
    const mine = text.trim() ? [{ ...pinned, text: text.trim() }] : [];
    if (text.trim() !== before.join("\n\n"))
      void change({ do: "set-notes", notes: [...others, ...mine] });
    onClose();
  };
  return (
    <Modal
      open
      title={`Note on ${what}`}
      okText={text.trim() || !before.length ? "Pin it" : "Take it away"}
      onOk={keep}
      onCancel={onClose}
    >
      <p className="soft">It is shown here and, once published, to whoever opens the macro.</p>
      <Input.TextArea
        aria-label="Note"
        autoFocus
        rows={4}
        maxLength={2000}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) keep();
        }}
      />
    </Modal>
  );
}
