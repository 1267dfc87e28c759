import { Button } from "antd";
import { useRef } from "react";
import { $api, carrying, type DraftView } from "../../api/client";
import type { ChangeDraft } from "../useDraft";
import styles from "./GradeFile.module.css";
import valueRowStyles from "./ValueRow.module.css";

interface Props {
  draft: DraftView;
  place: { lane: string; step: string };
  frame: number;
  length: number;
  change: ChangeDraft;
}

/** Reads a correction from an ASC CDL file, or writes one. */
export function GradeFile({ draft, place, frame, length, change }: Props) {
  const reading = $api.useMutation("post", "/api/grades");
  const input = useRef<HTMLInputElement>(null);
  const read = (picked: File) =>
    reading.mutate(
      { body: carrying(picked) },
      {
        onSuccess: ({ values, count }) => {
          const first = count > 1 ? `, the first of ${count}` : "";
          const said = `Balance: from ${picked.name}${first}`;
          const changes = Object.entries(values).map(([value_name, value]) => ({
            do: "set-value" as const,
            ...place,
            value_name,
            value,
            keep_control: true,
          }));
          void change({ do: "several", changes, said });
        },
      },
    );
  const query = `frame=${frame}&length=${length}&step=${place.lane}.${place.step}`;
  return (
    <div className={valueRowStyles.valueRow}>
      <span className="value-label">ASC CDL</span>
      <span className={styles.gradeFile}>
        <input
          ref={input}
          type="file"
          hidden
          accept=".cdl,.ccc,.cc"
          onChange={(event) => {
            const picked = event.target.files?.[0];
            event.target.value = "";
            if (picked) read(picked);
          }}
        />
        <Button size="small" onClick={() => input.current?.click()}>
          Read .cdl or .cc
        </Button>
        <Button
          size="small"
          href={`/api/effects/${draft.id}/${draft.revision}/grade.cc?${query}`}
          download
        >
          Save .cc
        </Button>
      </span>
    </div>
  );
}
