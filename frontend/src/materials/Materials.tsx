import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button } from "antd";
import { useState } from "react";
import { asked } from "../api/asked";
import { $api, carrying, type Material, type MaterialList } from "../api/client";
import { useWaiting } from "../player/arrivals";
import { useDrop } from "../shell/useDrop";
import { useRemoval } from "../shell/useRemoval";
import { CopySettings, useCopies } from "./copies";
import { MaterialRow } from "./MaterialRow";
import styles from "./Materials.module.css";
import { named, sequences } from "./sequences";

/** Footage and stills with their facts. Files may be dropped anywhere. */
export function Materials() {
  const found = useQuery(asked.materials());
  const client = useQueryClient();
  const { message } = App.useApp();
  const [coming, setComing] = useState<string[]>([]);
  const carry = $api.useMutation("post", "/api/materials", { meta: { told: true } });
  const bring = async (files: File[]) => {
    const groups = sequences(files);
    setComing(groups.map(named));
    for (const group of groups) {
      try {
        const made = await carry.mutateAsync({ body: carrying(group) });
        void message.success(`${made.name} is in.`);
      } catch (error) {
        void message.error((error as Error).message);
      }
      setComing((old) => old.filter((name) => name !== named(group)));
      for (const one of [asked.materials(), asked.screenCopies()])
        await client.invalidateQueries({ queryKey: one.queryKey });
    }
  };
  const { over, zone, picker } = useDrop(
    (files) => void bring(files),
    "video/*,.mkv,image/png,image/jpeg,image/webp,image/tiff,.exr,.ttf,.otf,.cube",
  );
  const listed = {
    onSuccess: (after: MaterialList) => client.setQueryData(asked.materials().queryKey, after),
  };
  const rename = $api.useMutation("post", "/api/materials/{name}/name", listed);
  const restore = $api.useMutation("post", "/api/materials/{name}/restore", listed);
  const away = $api.useMutation("delete", "/api/materials/{name}", listed);
  const takeAway = useRemoval(away, restore);
  const remove = (one: Material) =>
    takeAway({ path: { name: one.id } }, `${one.name} removed from the list.`);
  const materials = found.data?.materials ?? [];
  const waiting = useWaiting();
  const copies = useCopies();
  return (
    <main className={`page ${over ? "drop-over" : ""}`} {...zone}>
      <div className="page-head">
        <h1>Materials</h1>
        <span className="soft">
          MP4, MOV, WebM or MKV video; PNG, JPEG, WebP, TIFF or OpenEXR, single or numbered; TTF or
          OTF fonts; .cube lookup tables.
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
      {copies && <CopySettings found={copies} />}
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
              <th>Copy for the screen</th>
              <th>Used in</th>
              <th aria-label="Actions" />
            </tr>
          </thead>
          <tbody>
            {materials.map((one) => (
              <MaterialRow
                key={one.id}
                material={one}
                made={waiting[one.id]}
                copy={copies?.copies[one.id]}
                tables={materials.filter(({ facts }) => facts.kind === "table")}
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
