import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { asked } from "../api/asked";
import type { ReelView } from "../api/client";
import { MenuButton } from "../shell/MenuButton";
import styles from "./HandOn.module.css";

const FORMS = [
  { key: "otio", label: "Whole edit (OpenTimelineIO)" },
  { key: "edl", label: "Shots and cuts (EDL, CMX 3600)" },
  { key: "csv", label: "Marks (CSV)" },
];

/** Hands the edit on to other systems as a file, and lists what each kind of file cannot hold. */
export function HandOn({ view }: { view: ReelView }) {
  const [open, setOpen] = useState(false);
  const told = useQuery({ ...asked.handingOn(view.id), enabled: open });
  return (
    <MenuButton
      onOpen={() => setOpen(true)}
      menu={{
        items: FORMS.map(({ key, label }) => ({
          key,
          label: (
            <a className={styles.form} href={`/api/reels/${view.id}/edit.${key}`} download>
              {label}
              {told.data?.lost[key]?.map((sentence) => (
                <span key={sentence} className="soft">
                  {sentence}
                </span>
              ))}
            </a>
          ),
        })),
      }}
    >
      <Button disabled={!view.length}>Hand on</Button>
    </MenuButton>
  );
}
