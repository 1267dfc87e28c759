import { Button, Input, Progress } from "antd";
import { useState } from "react";
import type { CopyView, Material } from "../api/client";
import { Picture } from "../player/Picture";
import { rateOf, timecode } from "../player/timecode";
import { isPicture } from "../api/kinds";
import { CopyCell } from "./copies";
import styles from "./Materials.module.css";
import { ReadingDialog } from "./ReadingDialog";
import { coding, colour } from "./words";

interface RowProps {
  material: Material;
  /** The finished share of its file, while it is being made. */
  made: number | undefined;
  /** Its copy for the screen, if it is a film. */
  copy: CopyView | undefined;
  /** Lookup tables for its colours. */
  tables: readonly Material[];
  onRemove: () => void;
  onName: (name: string) => void;
}

/** A material with its facts and actions. */
export function MaterialRow({ material, made, copy, tables, onRemove, onName }: RowProps) {
  const [reading, setReading] = useState(false);
  const { facts } = material;
  const rate = facts.rate ? rateOf(facts.rate) : null;
  const middle = Math.floor((facts.frames ?? 1) / 2);
  return (
    <tr>
      <td className={styles.materialPicture}>
        <Picture
          url={`/api/materials/${material.id}/picture.jpg?frame=${middle}&width=256&height=144&mark=${material.mark}`}
          alt={material.name}
        />
      </td>
      <td>
        <Input
          variant="borderless"
          aria-label={`Name of ${material.name}`}
          key={material.name}
          defaultValue={material.name}
          onBlur={(event) => {
            const name = event.target.value.trim();
            if (name && name !== material.name) onName(name);
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
        <div className={`soft ${styles.coding}`}>{coding(material)}</div>
        {colour(material) && <div className={`soft ${styles.coding}`}>{colour(material)}</div>}
        {facts.sound && <div className={`soft ${styles.coding}`}>Sound: {facts.sound}</div>}
        {made !== undefined && (
          <>
            <Progress
              size="small"
              percent={Math.round(made * 100)}
              showInfo={false}
              aria-label={`${material.name}: being made`}
            />
            <div className={`soft ${styles.coding}`}>
              {made ? `being made, ${Math.round(made * 100)} %` : "waits to be made"}
            </div>
          </>
        )}
        {(facts.problems ?? []).map((problem) => (
          <div key={problem} className={styles.problem}>
            {problem}
          </div>
        ))}
      </td>
      <td className="mono">{isPicture(material) ? `${facts.width}×${facts.height}` : "–"}</td>
      <td className="mono">{rate ? `${Number(rate.toFixed(3))} fps` : "–"}</td>
      <td className="mono">{rate ? timecode(facts.frames ?? 0, rate) : facts.kind}</td>
      <td>{isPicture(material) ? (facts.alpha ? "yes" : "no") : "–"}</td>
      <td>
        <CopyCell material={material} copy={made === undefined ? copy : undefined} />
      </td>
      <td className="soft">{counted(material.used_in) || "nothing yet"}</td>
      <td>
        <div className={styles.actions}>
          {isPicture(material) && made === undefined && (
            <Button size="small" type="text" onClick={() => setReading(true)}>
              Read as…
            </Button>
          )}
          <Button size="small" type="text" onClick={onRemove}>
            Remove
          </Button>
        </div>
        {reading && (
          <ReadingDialog material={material} tables={tables} onClose={() => setReading(false)} />
        )}
      </td>
    </tr>
  );
}

/** Names in a row; one that several drafts share stands once, with how many have it. */
function counted(names: readonly string[]): string {
  const counts = new Map<string, number>();
  for (const name of names) counts.set(name, (counts.get(name) ?? 0) + 1);
  return [...counts].map(([name, count]) => (count > 1 ? `${name} (${count})` : name)).join(", ");
}
