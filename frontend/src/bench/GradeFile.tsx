import { App, Button } from "antd";
import { useRef } from "react";
import { api, type DraftView } from "../api/client";
import type { ChangeDraft } from "./useDraft";

interface Props {
  draft: DraftView;
  place: { lane: string; step: string };
  frame: number;
  length: number;
  change: ChangeDraft;
}

/** A correction in from an ASC CDL file, or out as one. */
export function GradeFile({ draft, place, frame, length, change }: Props) {
  const { message } = App.useApp();
  const input = useRef<HTMLInputElement>(null);
  const read = async (picked: File) => {
    try {
      const { values, count } = await api.readGrade(picked);
      const first = count > 1 ? `, the first of ${count}` : "";
      await change({ do: "set-values", ...place, values, said: `from ${picked.name}${first}` });
    } catch (error) {
      void message.error((error as Error).message);
    }
  };
  const query = `frame=${frame}&length=${length}&step=${place.lane}.${place.step}`;
  return (
    <div className="value-row">
      <span className="value-label">ASC CDL</span>
      <span className="value-wide grade-file">
        <input
          ref={input}
          type="file"
          hidden
          accept=".cdl,.ccc,.cc"
          onChange={(event) => {
            const picked = event.target.files?.[0];
            event.target.value = "";
            if (picked) void read(picked);
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
