import { isPicture } from "../../api/kinds";
import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { asked } from "../../api/asked";
import type { DraftView, Step } from "../../api/client";
import { mostOf } from "../../api/limits";
import { TextField } from "../../controls/TextField";
import type { ChangeDraft } from "../useDraft";
import styles from "./ValueRow.module.css";

/** The slots that a macro works on; an edit always fills them. */
const WORKED_ON = ["from", "to", "clip"];

/** The material that stands in for a slot while the maker builds; the editor brings another. */
export function StandIn(props: { draft: DraftView; step: Step; change: ChangeDraft }) {
  const { draft, step, change } = props;
  const found = useQuery(asked.materials());
  const name = String(step.values?.["slot"] ?? "clip");
  const slot = (draft.effect.slots ?? []).find((one) => one.id === name);
  if (!slot) return null;
  const told = (more: { name?: string; help?: string; fallback?: "card" | "clip" }) =>
    change({ do: "set-slot", slot: slot.id, ...more });
  return (
    <>
      <div className={styles.valueRow} title="What is shown here while you build.">
        <span className="value-label">stand-in</span>
        <Select
          className={styles.valueWide}
          size="small"
          aria-label={`Stand-in for ${slot.name}`}
          placeholder="a plain card"
          popupMatchSelectWidth={false}
          value={slot.stand_in ?? undefined}
          allowClear
          options={(found.data?.materials ?? [])
            .filter(isPicture)
            .map((one) => ({ value: one.id, label: one.name }))}
          onChange={(stand_in?: string) =>
            void change({ do: "set-slot", slot: slot.id, stand_in: stand_in ?? null })
          }
        />
      </div>
      <div
        className={styles.valueRow}
        title="What the editor reads where they choose the material."
      >
        <span className="value-label">called</span>
        <TextField
          className={styles.valueWide}
          label={`Name of the slot ${slot.name}`}
          value={slot.name}
          most={mostOf("SetSlot", "name")}
          onCommit={(name) => name.trim() && told({ name: name.trim() })}
        />
      </div>
      <div className={styles.valueRow} title="How to feed it, for the editor.">
        <span className="value-label">help</span>
        <TextField
          className={styles.valueWide}
          label={`Help for the slot ${slot.name}`}
          value={slot.help ?? ""}
          most={mostOf("SetSlot", "help")}
          onCommit={(help) => told({ help })}
        />
      </div>
      {!WORKED_ON.includes(slot.id) && (
        <div
          className={styles.valueRow}
          title="What an edit shows while the editor has put nothing into it."
        >
          <span className="value-label">while empty</span>
          <Select
            className={styles.valueWide}
            size="small"
            aria-label={`What ${slot.name} shows while it is empty`}
            popupMatchSelectWidth={false}
            value={slot.fallback ?? "card"}
            options={[
              { value: "card", label: "a plain card" },
              { value: "clip", label: "the clip itself" },
            ]}
            onChange={(fallback) => void told({ fallback })}
          />
        </div>
      )}
    </>
  );
}
