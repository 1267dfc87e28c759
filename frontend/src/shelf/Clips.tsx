import { isPicture } from "../materials/kinds";
import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { asked } from "../api/asked";

import { Picture } from "../player/Picture";
import styles from "./Clips.module.css";

interface Props {
  slots: readonly { id: string; name: string; help?: string; stand_in?: string | null }[];
  /** Materials by slot, where they are not the macro's own stand-ins. */
  chosen: Record<string, string>;
  onChoose: (chosen: Record<string, string>) => void;
}

/** Clips of one's own to try a macro on, one for each of its slots. */
export function Clips({ slots, chosen, onChoose }: Props) {
  const materials = useQuery(asked.materials());
  const clips = (materials.data?.materials ?? []).filter(isPicture);
  if (!slots.length) return null;
  return (
    <div className={styles.clips} role="group" aria-label="Try it on your clips">
      <h2>Try it on your clips</h2>
      {slots.map((slot) => {
        const now = chosen[slot.id] ?? slot.stand_in ?? undefined;
        const clip = clips.find((one) => one.id === now);
        const middle = Math.floor((clip?.facts.frames ?? 1) / 2);
        return (
          <label key={slot.id} title={slot.help}>
            <span>{slot.name}</span>
            <Picture
              url={
                clip && `/api/materials/${clip.id}/picture.jpg?frame=${middle}&width=256&height=144`
              }
              alt=""
            />
            <ClipSelect
              label={`Clip for ${slot.name}`}
              value={clip?.id}
              onChoose={(id) => onChoose({ ...chosen, [slot.id]: id })}
            />
          </label>
        );
      })}
    </div>
  );
}

/** One of the library's clips and stills. */
export function ClipSelect(props: {
  label: string;
  value: string | undefined;
  onChoose: (id: string) => void;
}) {
  const materials = useQuery(asked.materials());
  const clips = (materials.data?.materials ?? []).filter(isPicture);
  return (
    <Select
      size="small"
      aria-label={props.label}
      title={props.label}
      placeholder="a plain card"
      popupMatchSelectWidth={false}
      value={props.value}
      options={clips.map((one) => ({ value: one.id, label: one.name }))}
      onChange={props.onChoose}
    />
  );
}
