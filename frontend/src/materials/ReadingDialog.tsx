import { useQueryClient } from "@tanstack/react-query";
import { Modal, Select } from "antd";
import { useState } from "react";
import { asked } from "../api/asked";
import { $api, type Material, type MaterialList } from "../api/client";
import styles from "./Materials.module.css";

interface Props {
  material: Material;
  tables: readonly Material[];
  onClose: () => void;
}

type Reading = Material["reading"];
type Field = keyof Reading;

interface Choice {
  field: Field;
  label: string;
  options: { value: string; label: string }[];
}

const same = (...values: string[]) => values.map((value) => ({ value, label: value }));

/** The choices that make sense for a material. */
function choices({ facts }: Material, tables: readonly Material[]): Choice[] {
  const found: Choice[] = [];
  const planes = facts.colour && facts.colour.chroma !== "RGB";
  if (planes) {
    found.push(
      { field: "matrix", label: "Matrix", options: same("Rec. 601", "Rec. 709", "Rec. 2020") },
      { field: "range", label: "Range", options: same("video", "full") },
    );
  }
  if (facts.kind === "video")
    found.push({ field: "transfer", label: "Transfer", options: same("Rec. 709", "PQ", "HLG") });
  if (facts.alpha)
    found.push({ field: "alpha", label: "Alpha", options: same("straight", "premultiplied") });
  if (facts.interlaced)
    found.push({ field: "field", label: "Show one field", options: same("upper", "lower") });
  if (facts.layers?.length)
    found.push({ field: "layer", label: "Layer", options: same(...facts.layers) });
  if (facts.pictures) {
    const rates = same("12", "24", "25", "29.97", "30", "50", "60");
    found.push({ field: "rate", label: "Frames a second", options: rates });
  }
  found.push({
    field: "table",
    label: "Through a lookup table",
    options: tables.map(({ id, name }) => ({ value: id, label: name })),
  });
  return found;
}

/** Sets how a file is read, in place of its own tags. */
export function ReadingDialog({ material, tables, onClose }: Props) {
  const [reading, setReading] = useState<Reading>(material.reading);
  const client = useQueryClient();
  const read = $api.useMutation("post", "/api/materials/{name}/reading", {
    meta: { told: true },
    onSuccess: (after: MaterialList) => {
      client.setQueryData(asked.materials().queryKey, after);
      onClose();
    },
  });
  return (
    <Modal
      open
      title={`How to read ${material.name}`}
      okText="Read it this way"
      onCancel={onClose}
      confirmLoading={read.isPending}
      onOk={() => read.mutate({ params: { path: { name: material.id } }, body: reading })}
    >
      <p className="soft">
        Everything that uses it changes with it. Choose only what the file says wrongly, or does not
        say.
      </p>
      <div className={styles.reading}>
        {choices(material, tables).map(({ field, label, options }) => (
          <label key={field} htmlFor={`reading-${field}`}>
            <span>{label}</span>
            <Select
              id={`reading-${field}`}
              aria-label={label}
              allowClear
              placeholder={options.length ? "As the file says" : "Bring in a .cube first"}
              disabled={!options.length}
              value={(reading[field] as string) || undefined}
              onChange={(value?: string) =>
                setReading({ ...reading, [field]: value ?? (isText(field) ? "" : null) })
              }
              options={options}
            />
          </label>
        ))}
      </div>
      {read.error && <p className="bad">{read.error.detail}</p>}
    </Modal>
  );
}

/** Whether a field without a choice is empty text and not null. */
function isText(field: Field): boolean {
  return field === "layer" || field === "table" || field === "rate";
}
