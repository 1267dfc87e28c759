import { isPicture } from "../../api/kinds";
import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { asked } from "../../api/asked";
import type { Material, ReelView } from "../../api/client";
import { Picture } from "../../player/Picture";
import { rateOf } from "../../player/timecode";
import { reelStore } from "../store";
import { framesOfMaterial, MATERIAL } from "../strip/useStripDrop";
import type { ChangeReel } from "../useReel";
import styles from "./Tray.module.css";

/** Materials for the strip: a click puts one at the end, dragging puts it anywhere. */
export function Clips({ view, change }: { view: ReelView; change: ChangeReel }) {
  const [text, setText] = useState("");
  const [picked, setPicked] = useState<Material | null>(null);
  const materials = useQuery(asked.materials());
  const rate = rateOf(view.rate);
  const found = (materials.data?.materials ?? []).filter(
    (one) => isPicture(one) && one.name.toLowerCase().includes(text.toLowerCase()),
  );
  const put = (one: Material, more: { frame?: number; over?: boolean } = {}) => {
    const whole = framesOfMaterial(one, rate);
    // Keep about a quarter of a second at both ends as handles for joins.
    const keep = one.facts.rate ? Math.min(Math.round(rate / 2), Math.floor(whole / 5)) : 0;
    void change({
      do: "add-shot",
      material: one.id,
      name: one.name,
      start: keep,
      length: Math.max(1, whole - 2 * keep),
      over: false,
      ...more,
    });
  };
  const above = (one: Material) =>
    void change({
      do: "add-item",
      material: one.id,
      name: one.name,
      frame: reelStore.getState().frame,
      length: framesOfMaterial(one, rate),
      start: 0,
      version: 1,
      settings: {},
    });
  return (
    <>
      <Input
        size="small"
        type="search"
        aria-label="Filter materials"
        placeholder="Name…"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <p className="soft">Click to put it at the end, or drag it onto the strip.</p>
      {picked && (
        <div className={styles.put} role="group" aria-label={`Where ${picked.name} goes`}>
          <b>{picked.name}</b>
          <Button size="small" onClick={() => put(picked)}>
            At the end
          </Button>
          <Button size="small" onClick={() => put(picked, { frame: reelStore.getState().frame })}>
            Insert at the playhead
          </Button>
          <Button
            size="small"
            onClick={() => put(picked, { frame: reelStore.getState().frame, over: true })}
          >
            Over what is there
          </Button>
          <Button size="small" onClick={() => above(picked)}>
            On a row above
          </Button>
        </div>
      )}
      <div className={styles.trayGrid}>
        {found.map((one) => (
          <div key={one.id} className={styles.trayCard}>
            <button
              className="bare"
              draggable
              onDragStart={(event) => event.dataTransfer.setData(MATERIAL, JSON.stringify(one))}
              onClick={() => put(one)}
            >
              <Picture
                url={`/api/materials/${one.id}/picture.jpg?frame=${Math.floor((one.facts.frames ?? 1) / 2)}&width=256&height=144`}
                alt=""
              />
              {one.name}
            </button>
            <button
              className={`bare ${styles.star}`}
              aria-label={`More ways to put ${one.name} on the strip`}
              aria-expanded={picked?.id === one.id}
              onClick={() => setPicked(picked?.id === one.id ? null : one)}
            >
              …
            </button>
          </div>
        ))}
      </div>
      {materials.data && !found.length && (
        <p className="soft">
          Nothing here. Drop files on the strip, or bring them in under Materials.
        </p>
      )}
    </>
  );
}
