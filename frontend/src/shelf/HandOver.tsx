import { App, Button } from "antd";
import { useState } from "react";
import { query, type MacroCard } from "../api/client";
import { MenuButton } from "../shell/MenuButton";

interface Props {
  card: MacroCard;
  settings: Record<string, unknown>;
}

/** Hands a macro over as a file: its package, or a form that other systems read. */
export function HandOver({ card, settings }: Props) {
  const { message } = App.useApp();
  const [making, setMaking] = useState(false);
  const baked = async (name: string) => {
    setMaking(true);
    try {
      const set = query({ settings: JSON.stringify(settings) });
      const answer = await fetch(`/api/macros/${card.slug}/${card.version}/${name}?${set}`);
      if (!answer.ok) {
        const told = (await answer.json()) as { detail: string };
        void message.error(told.detail, 8);
        return;
      }
      const link = document.createElement("a");
      link.href = URL.createObjectURL(await answer.blob());
      link.download = `${card.slug}-${card.version}${name === "wipe.png" ? "-wipe.png" : ".cube"}`;
      link.click();
      URL.revokeObjectURL(link.href);
    } finally {
      setMaking(false);
    }
  };
  const file = `/api/macros/${card.slug}/${card.version}/file.palemacro`;
  const items = [{ key: "package", label: <a href={file}>Macro file (.palemacro)</a> }];
  const more = [];
  if (card.kind === "transition")
    more.push({ key: "wipe.png", label: "Wipe picture for other systems (PNG)" });
  if (card.kind === "look") more.push({ key: "table.cube", label: "Lookup table (.cube)" });
  return (
    <MenuButton
      menu={{
        items: [...items, ...more],
        onClick: ({ key }) => {
          if (key !== "package") void baked(key);
        },
      }}
    >
      <Button loading={making}>Hand over as a file</Button>
    </MenuButton>
  );
}
