import { Button, Dropdown } from "antd";
import type { ReelView } from "../api/client";

const FORMS = [
  { key: "otio", label: "Whole edit (OpenTimelineIO)" },
  { key: "edl", label: "Shots and cuts (EDL, CMX 3600)" },
  { key: "csv", label: "Marks (CSV)" },
];

/** Hands the edit on to other systems as a file. */
export function HandOn({ view }: { view: ReelView }) {
  return (
    <Dropdown
      trigger={["click"]}
      menu={{
        items: FORMS.map(({ key, label }) => ({
          key,
          label: (
            <a href={`/api/reels/${view.id}/edit.${key}`} download>
              {label}
            </a>
          ),
        })),
      }}
    >
      <Button disabled={!view.length}>Hand on</Button>
    </Dropdown>
  );
}
