import { isPicture } from "./kinds";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Progress } from "antd";
import { useState } from "react";
import { asked } from "../api/asked";
import { $api, carrying, type Material, type MaterialList } from "../api/client";
import { useWaiting } from "../player/arrivals";
import { Picture } from "../player/Picture";
import { rateOf, timecode } from "../player/timecode";
import { useDrop } from "../shell/useDrop";
import { useRemoval } from "../shell/useRemoval";
import styles from "./Materials.module.css";

/** Footage and stills with what has to be known of them. Files may be dropped anywhere. */
export function Materials() {
  const found = useQuery(asked.materials());
  const client = useQueryClient();
  const { message } = App.useApp();
  const [coming, setComing] = useState<string[]>([]);
  const bring = async (files: File[]) => {
    setComing(files.map((one) => one.name));
    for (const one of files) {
      try {
        const made = await carry.mutateAsync({ body: carrying(one) });
        void message.success(`${made.name} is in.`);
      } catch (error) {
        void message.error((error as Error).message);
      }
      setComing((old) => old.filter((name) => name !== one.name));
      await client.invalidateQueries({ queryKey: asked.materials().queryKey });
    }
  };
  const { over, zone, picker } = useDrop(
    (files) => void bring(files),
    "video/*,.mkv,image/png,image/jpeg,image/webp,image/tiff,.exr,.ttf,.otf,.cube",
  );
  const listed = {
    onSuccess: (after: MaterialList) => client.setQueryData(asked.materials().queryKey, after),
  };
  const carry = $api.useMutation("post", "/api/materials", { meta: { told: true } });
  const rename = $api.useMutation("post", "/api/materials/{name}/name", listed);
  const restore = $api.useMutation("post", "/api/materials/{name}/restore", listed);
  const away = $api.useMutation("delete", "/api/materials/{name}", listed);
  const takeAway = useRemoval(away, restore);
  const remove = (one: Material) =>
    takeAway({ path: { name: one.id } }, `${one.name} removed from the list.`);
  const materials = found.data?.materials ?? [];
  const waiting = useWaiting();
  return (
    <main className={`page ${over ? "drop-over" : ""}`} {...zone}>
      <div className="page-head">
        <h1>Materials</h1>
        <span className="soft">
          MP4, MOV, WebM or MKV video; PNG, JPEG, WebP, TIFF or OpenEXR stills; TTF or OTF fonts;
          .cube lookup tables.
        </span>
        <Button className="right" type="primary" onClick={picker}>
          Bring in files
        </Button>
      </div>
      {coming.map((name) => (
        <p key={name} className="soft" role="status">
          Bringing in {name}…
        </p>
      ))}
      {found.error && <p className="bad">{found.error.detail}</p>}
      {found.data && !materials.length && (
        <p className="empty">Nothing here yet. Drop files anywhere on this page.</p>
      )}
      {materials.length > 0 && (
        <table className={styles.materials}>
          <thead>
            <tr>
              <th aria-label="Picture" />
              <th>Name</th>
              <th>Size</th>
              <th>Rate</th>
              <th>Length</th>
              <th>Alpha</th>
              <th>Used in</th>
              <th aria-label="Actions" />
            </tr>
          </thead>
          <tbody>
            {materials.map((one) => (
              <Row
                key={one.id}
                material={one}
                made={waiting[one.id]}
                onRemove={() => remove(one)}
                onName={(name) =>
                  rename.mutate({ params: { path: { name: one.id } }, body: { name } })
                }
              />
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}

interface RowProps {
  material: Material;
  /** How much of its file is there, while it is being made. */
  made: number | undefined;
  onRemove: () => void;
  onName: (name: string) => void;
}

function Row({ material, made, onRemove, onName }: RowProps) {
  const { facts } = material;
  const rate = facts.rate ? rateOf(facts.rate) : null;
  const middle = Math.floor((facts.frames ?? 1) / 2);
  return (
    <tr>
      <td className={styles.materialPicture}>
        <Picture
          url={`/api/materials/${material.id}/picture.jpg?frame=${middle}&width=256&height=144`}
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
        <div className={`soft ${styles.coding}`}>
          {facts.kind} · {facts.coding} ·{" "}
          {facts.kind === "font"
            ? `${facts.glyphs} glyphs`
            : isPicture(material)
              ? `${facts.bits} bits`
              : "colours"}
        </div>
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
      <td className="soft">{material.used_in.join(", ") || "nothing yet"}</td>
      <td>
        <Button size="small" type="text" onClick={onRemove}>
          Remove
        </Button>
      </td>
    </tr>
  );
}
