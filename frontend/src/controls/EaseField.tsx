import { Popover } from "antd";
import { useState } from "react";
import type { Ease } from "../api/values";
import { easeWords } from "./ease";
import { EaseCurve } from "./EaseCurve";
import styles from "./EaseField.module.css";
import { EaseSquare } from "./EaseSquare";

/** The ease from one key to the next: a button that shows the curve. */
export function EaseField(props: { label: string; value: Ease; onCommit: (ease: Ease) => void }) {
  const { label, value, onCommit } = props;
  const [open, setOpen] = useState(false);
  const words = easeWords(value);
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      destroyOnHidden
      arrow={false}
      content={
        <EaseSquare
          label={label}
          value={value}
          onCommit={onCommit}
          onClose={() => setOpen(false)}
        />
      }
    >
      <button
        type="button"
        className={`bare ${styles.field}`}
        aria-label={`${label}: ease, ${words}`}
        aria-expanded={open}
        aria-haspopup="dialog"
        title={`Ease: ${words}`}
      >
        <EaseCurve ease={value} />
        <span>{words}</span>
      </button>
    </Popover>
  );
}
