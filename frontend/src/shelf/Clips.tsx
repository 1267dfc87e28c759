import { useQuery } from "@tanstack/react-query";
import { asked } from "../api/asked";
import { isPicture } from "../api/kinds";
import { ClipSelect } from "../controls/ClipSelect";
import { Picture } from "../player/Picture";
import styles from "./Clips.module.css";

interface Props {
  slots: readonly { id: string; name: string; help?: string; stand_in?: string | null }[];
  /** Materials by slot, if they are not the macro's own stand-ins. */
  chosen: Record<string, string>;
  onChoose: (chosen: Record<string, string>) => void;
}

/** Own clips for trying a macro, one for each of its slots. */
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
