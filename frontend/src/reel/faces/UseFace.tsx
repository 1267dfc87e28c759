import { isPicture } from "../../api/kinds";
import { App, Button, Select } from "antd";
import { useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { asked } from "../../api/asked";
import type { ReelChange, Use } from "../../api/client";
import { settingsOf } from "../../api/values";
import { ControlList } from "../../controls/ControlList";
import { Picture } from "../../player/Picture";
import { pinnedOf } from "../selection";
import { useReelState } from "../store";
import type { FaceProps } from "./props";
import { triedAt } from "../tray/TryOn";
import { KeptSettings } from "./KeptSettings";
import { UpdateDialog } from "./UpdateDialog";
import styles from "./Face.module.css";

interface Props extends FaceProps {
  /** Uses of one version of one macro, which are changed together. */
  uses: readonly Use[];
  /** Its frames. */
  first: number;
  end: number;
  /** Rows between the name and the controls, such as the length. */
  children?: React.ReactNode;
  /** Text below the controls. */
  foot?: React.ReactNode;
  what: string;
}

/** A macro for the editor: its version, controls, slots and actions. */
export function UseFace(props: Props) {
  const { view, change, onTry, onSelect, uses, first, end, children, foot, what } = props;
  const [updating, setUpdating] = useState(false);
  const { message } = App.useApp();
  const copied = useReelState((state) => state.copied);
  const setState = useReelState((state) => state.set);
  const use = uses[0]!;
  const pinned = pinnedOf(view, use);
  if (!pinned) return null;
  const names = uses.map((one) => one.id);
  const settings = settingsOf(pinned.controls, use.settings);
  const set = (more: Partial<Extract<ReelChange, { do: "set-use" }>>): ReelChange => ({
    do: "set-use",
    uses: names,
    ...more,
  });
  const paste = copied?.kind === "settings" && copied.macro === use.macro ? copied : null;
  return (
    <section className={styles.face} aria-label="Faceplate">
      <h2>
        {pinned.name} <span className="mono soft">version {pinned.version}</span>
        {uses.length > 1 && <span className="soft"> · {uses.length} together</span>}
      </h2>
      {!pinned.problem && pinned.controls.length > 0 && !use.macro.includes(":") && (
        <KeptSettings
          macro={use.macro}
          settings={use.settings}
          aspect={view.width / view.height}
          pictureOf={(kept) =>
            triedAt(view, set({ settings: cleared(use, kept) }), Math.floor((first + end) / 2))
          }
          onTry={(kept) => onTry(kept && set({ settings: cleared(use, kept) }))}
          onTake={(kept) => void change(set({ settings: cleared(use, kept) }))}
        />
      )}
      <p className="soft">{pinned.sentence}</p>
      {pinned.problem && <p className="note">{pinned.problem}</p>}
      {pinned.newest > pinned.version && (
        <div className="note">
          Version {pinned.newest} is on the shelf: {pinned.update.join(" ")}{" "}
          <button className="link" onClick={() => setUpdating(true)}>
            See and update
          </button>
        </div>
      )}
      {children}
      <ControlList
        controls={pinned.controls}
        settings={settings}
        onTry={({ slug }, value) => onTry(set({ settings: { [slug]: value } }))}
        onCommit={({ slug, default: usual }, value) => {
          const same = JSON.stringify(value) === JSON.stringify(usual);
          return change(set({ settings: { [slug]: same ? null : value } }));
        }}
      />
      {pinned.slots.map((slot) => (
        <SlotRow
          key={slot.id}
          name={slot.name}
          help={slot.help}
          material={use.slots[slot.id] ?? null}
          onPick={(material) => void change(set({ slots: { [slot.id]: material } }))}
        />
      ))}
      {use.notes.map(({ slot, sentence }) => (
        <div className="note" key={slot}>
          {sentence}{" "}
          <Button size="small" onClick={() => void change(set({ covering: { [slot]: true } }))}>
            Make it cover the frame
          </Button>
        </div>
      ))}
      {foot}
      <div className={styles.ways}>
        <Button
          size="small"
          onClick={() => {
            setState({
              copied: { kind: "settings", macro: use.macro, settings: { ...use.settings } },
            });
            void message.info(
              `Settings of ${pinned.name} copied. Select others of it, and paste them.`,
            );
          }}
        >
          Copy the settings
        </Button>
        <Button
          size="small"
          disabled={!paste}
          onClick={() => paste && void change(set({ settings: cleared(use, paste.settings) }))}
        >
          Paste
        </Button>
        <Button
          size="small"
          disabled={Object.keys(use.settings).length === 0}
          onClick={() => void change(set({ settings: cleared(use, {}) }))}
        >
          Back to default
        </Button>
        <Button
          size="small"
          onClick={() => {
            void change({ do: "remove", names, close: true });
            onSelect(null);
          }}
        >
          {what}
        </Button>
      </div>
      {updating && <UpdateDialog {...props} pinned={pinned} onClose={() => setUpdating(false)} />}
    </section>
  );
}

/** Settings that replace all settings of a use: a control that is left out returns to its default.
 * */
function cleared(use: Use, settings: Record<string, unknown>): Record<string, unknown> {
  const none = Object.fromEntries(Object.keys(use.settings).map((slug) => [slug, null]));
  return { ...none, ...settings };
}

interface SlotProps {
  name: string;
  help: string;
  material: string | null;
  onPick: (material: string | null) => void;
}

/** A slot that the editor fills from Materials. */
function SlotRow({ name, help, material, onPick }: SlotProps) {
  const materials = useQuery(asked.materials());
  const options = (materials.data?.materials ?? []).filter(isPicture);
  const picture = (id: string) => `/api/materials/${id}/picture.jpg?frame=0&width=64&height=36`;
  return (
    <div className="control-row">
      <div className="control-head">
        <span title={help}>{name}</span>
        <Select
          size="small"
          allowClear
          showSearch
          aria-label={name}
          style={{ width: 160 }}
          placeholder="Fill it"
          value={material}
          popupMatchSelectWidth={220}
          optionFilterProp="title"
          options={options.map((one) => ({ value: one.id, label: one.name, title: one.name }))}
          optionRender={(option) => (
            <span className={styles.option}>
              <Picture url={picture(String(option.value))} alt="" /> {option.label}
            </span>
          )}
          onChange={(picked: string | undefined) => onPick(picked ?? null)}
        />
      </div>
      {help && <p className="control-help">{help}</p>}
    </div>
  );
}
