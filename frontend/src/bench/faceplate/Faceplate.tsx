import { Button, Input, Switch } from "antd";
import { useState } from "react";
import type { Control, DraftView } from "../../api/client";
import { isLink } from "../../api/values";
import { ControlRow } from "../../controls/ControlRow";
import { NumberField } from "../../controls/NumberField";
import { useBench } from "../store";
import type { ChangeDraft } from "../useDraft";
import { MoreMenu } from "../../shell/MenuButton";
import styles from "./Faceplate.module.css";
import movesStyles from "../moves/Moves.module.css";

/** The macro's controls as the editor will see them; "Try it" shows exactly that. */
export function Faceplate({ draft, change }: { draft: DraftView; change: ChangeDraft }) {
  const [trying, setTrying] = useState(false);
  const controls = draft.effect.controls ?? [];
  const attempt = useBench((state) => state.attempt);
  const way = !isLink(draft.effect.backwards) && (
    <Button size="small" onClick={() => void change({ do: "expose-backwards" })}>
      Let the editor play it backwards
    </Button>
  );
  if (!controls.length)
    return (
      <div className={movesStyles.drawerEmpty}>
        <p className="soft">
          Nothing is exposed yet. Choose “Expose” in a value’s menu, or press E over it.
        </p>
        {way}
      </div>
    );
  return (
    <div className={styles.faceplate}>
      <label className={styles.tryIt}>
        <Switch size="small" checked={trying} onChange={setTrying} aria-label="Try it" /> Try it as
        the editor will
      </label>
      {controls.map((control, at) => {
        const put = (value: unknown) => ({
          do: "set-control" as const,
          slug: control.slug,
          default: value,
        });
        const row = (
          <ControlRow
            control={control}
            value={control.default}
            onTry={(value) => attempt(put(value))}
            onCommit={(value) => change(put(value))}
          />
        );
        return trying ? (
          <div key={control.slug}>{row}</div>
        ) : (
          <ControlEdit
            key={control.slug}
            {...{ draft, control, at, change }}
            last={at === controls.length - 1}
          >
            {row}
          </ControlEdit>
        );
      })}
      {!trying && way}
    </div>
  );
}

interface ChangeProps {
  draft: DraftView;
  control: Control;
  at: number;
  last: boolean;
  change: ChangeDraft;
  children: React.ReactNode;
}

function ControlEdit({ draft, control, at, last, change, children }: ChangeProps) {
  const slug = control.slug;
  const driven = draft.drives[slug] ?? [];
  const slider = (control.slider ?? [0, 1]) as [number, number];
  const numeric = ["number", "whole", "angle"].includes(control.type);
  const items = [
    { key: "up", label: "Move up", disabled: at === 0 },
    { key: "down", label: "Move down", disabled: last },
    { key: "seal", label: "Seal (take off the faceplate)" },
  ];
  return (
    <div className={styles.controlEdit}>
      <div className={styles.controlEditHead}>
        <Input
          size="small"
          aria-label={`Name of control ${at + 1}`}
          key={control.label}
          defaultValue={control.label}
          onBlur={(event) => {
            const label = event.target.value.trim();
            if (label && label !== control.label) void change({ do: "set-control", slug, label });
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
        <span className={`soft ${styles.drives}`}>
          drives{" "}
          {[
            ...driven.map((one) => one.words),
            ...(isLink(draft.effect.backwards) && draft.effect.backwards.control === slug
              ? ["which way it plays"]
              : []),
          ].join("; ") || "nothing"}
        </span>
        <MoreMenu
          label={`Control ${control.label}: more`}
          items={items}
          onPick={(key) => {
            if (key === "seal") void change({ do: "remove-control", slug });
            else void change({ do: "set-control", slug, at: key === "up" ? at - 1 : at + 1 });
          }}
        />
      </div>
      {children}
      <div className={styles.controlEditMore}>
        <Input
          size="small"
          aria-label={`Help for ${control.label}`}
          placeholder="Help for the editor"
          key={control.help}
          defaultValue={control.help}
          onBlur={(event) =>
            event.target.value !== control.help &&
            void change({ do: "set-control", slug, help: event.target.value })
          }
        />
        {numeric && (
          <span className={styles.controlRange}>
            slider
            <NumberField
              label={`${control.label}: slider from`}
              value={slider[0]}
              onCommit={(low) => change({ do: "set-control", slug, slider: [low, slider[1]] })}
            />
            to
            <NumberField
              label={`${control.label}: slider to`}
              value={slider[1]}
              onCommit={(high) =>
                void change({ do: "set-control", slug, slider: [slider[0], high] })
              }
            />
          </span>
        )}
      </div>
    </div>
  );
}
