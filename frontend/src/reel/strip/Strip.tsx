import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { ReelChange, ReelView } from "../../api/client";
import {
  between,
  cutFrame,
  cutsOf,
  cutWords,
  endOf,
  joinOn,
  sameCut,
  type Cut,
} from "../selection";
import { reelStore, useReelState } from "../store";
import type { ChangeReel } from "../useReel";
import { CutGrip } from "./CutGrip";
import { edges, fitting, LEFT, scaleOf, snapped, WIDEST } from "./geometry";
import type { Ground } from "./ground";
import { ItemBlock } from "./ItemBlock";
import { JoinBlock } from "./JoinBlock";
import { LookTabs } from "./LookTabs";
import { Ruler } from "./Ruler";
import { ShotBlock } from "./ShotBlock";
import { useStripDrop } from "./useStripDrop";
import styles from "./Strip.module.css";

interface Props {
  view: ReelView;
  rate: number;
  change: ChangeReel;
  onTry: (change: ReelChange | null) => void;
  onFrame: (frame: number) => void;
  /** Selects, or with a picking key held adds to the selection. */
  onSelectPlaced: (name: string, more: boolean) => void;
  onSelectCut: (cut: Cut, more: boolean) => void;
  onSelectLook: (look: string) => void;
}

/** The strip: shots with their looks and sound, and the rows above them. */
export function Strip(props: Props) {
  const { view, rate, change, onTry, onFrame } = props;
  const zoom = useReelState((state) => state.zoom);
  const snapping = useReelState((state) => state.snap);
  const selected = useReelState((state) => state.selected);
  const box = useRef<HTMLElement>(null);
  const [wide, setWide] = useState(1200);
  const [scrolled, setScrolled] = useState(0);
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => entry && setWide(entry.contentRect.width));
    if (box.current) watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const length = Math.max(view.length, 1);
  const whole = fitting(wide, length);
  const pixels = zoom === null ? whole : Math.min(WIDEST, Math.max(whole, zoom));
  const scale = scaleOf(pixels);
  useEffect(() => reelStore.getState().set({ scale: pixels }), [pixels]);
  const { x } = scale;

  // Zooming keeps the playhead where it is on the screen.
  const before = useRef(pixels);
  useLayoutEffect(() => {
    const strip = box.current;
    if (!strip || before.current === pixels) return;
    const { frame } = reelStore.getState();
    const at = LEFT + frame * before.current - strip.scrollLeft;
    strip.scrollLeft = x(frame) - (at >= 0 && at <= wide ? at : wide / 2);
    before.current = pixels;
  }, [pixels, wide, x]);

  const snap = (at: number, event: PointerEvent, without: readonly string[] = []) =>
    snapping && !event.altKey
      ? snapped(at, edges(view, reelStore.getState().frame, without), pixels)
      : Math.round(at);
  const ground: Ground = { view, rate, scale, change, onTry, snap };
  const drop = useStripDrop(ground, box);
  // Only visible blocks are drawn, and some beside them. Scrolling draws again after each sixteenth
  // of the width; in between the browser moves the drawn blocks.
  const [margin, part] = [wide / 4, wide / 16];
  const from = (scrolled - margin - LEFT) / pixels;
  const to = (scrolled + wide + margin - LEFT) / pixels;
  const inSight = (first: number, end: number) => end >= from && first <= to;
  const shots = between(view.shots, (one) => [one.begins - one.gap, endOf(one)], from, to);
  const cuts = between(cutsOf(view), (cut) => [cutFrame(view, cut), cutFrame(view, cut)], from, to);
  const picked = selected?.kind === "placed" ? selected.names : [];
  const rows = Math.max(1, view.rows);

  return (
    <section
      className={`${styles.strip} ${drop.over ? "drop-over" : ""}`}
      aria-label="Strip"
      data-strip={pixels}
      ref={box}
      onScroll={(event) => setScrolled(Math.round(event.currentTarget.scrollLeft / part) * part)}
      {...drop.zone}
    >
      {/* eslint-disable-next-line jsx-a11y/no-static-element-interactions, jsx-a11y/click-events-have-key-events -- Escape does the same */}
      <div
        className={styles.film}
        onClick={(event) => {
          const target = event.target as HTMLElement;
          if (!target.closest("button, input, [role=slider]") && !target.dataset["grip"])
            reelStore.getState().set({ selected: null });
        }}
        style={{ width: Math.max(wide, x(length) + LEFT) }}
      >
        <Ruler
          ground={ground}
          length={length}
          from={scrolled - margin}
          to={scrolled + wide + margin}
          onFrame={onFrame}
        />
        <div className={styles.above} data-rows style={{ height: rows * 28 }}>
          {view.items
            .filter((item) => inSight(item.begins, endOf(item)))
            .map((item) => (
              <ItemBlock
                key={item.id}
                ground={ground}
                item={item}
                top={(rows - 1 - item.row) * 28}
                selected={picked.includes(item.id)}
                onSelect={props.onSelectPlaced}
              />
            ))}
          {view.items.length === 0 && (
            <span className={styles.hint}>Titles, textures and clips over the shots lie here.</span>
          )}
        </div>
        <div className={styles.shots}>
          {shots.map((shot) => (
            <ShotBlock
              key={shot.id}
              ground={ground}
              shot={shot}
              selected={picked.includes(shot.id)}
              onSelect={props.onSelectPlaced}
            />
          ))}
          {cuts.map((cut) => {
            const join = joinOn(view, cut);
            const mine =
              selected?.kind === "cuts" && selected.cuts.some((one) => sameCut(one, cut));
            const block = { ground, cut, selected: mine, label: cutWords(view, cut) };
            const key = `${cut.left ?? ""}|${cut.right ?? ""}`;
            return join ? (
              <JoinBlock key={key} {...block} join={join} onSelect={props.onSelectCut} />
            ) : (
              <CutGrip key={key} {...block} onSelect={props.onSelectCut} />
            );
          })}
          {view.shots.length === 0 && (
            <span className={styles.hint}>Drop a clip here, or pick one on the left.</span>
          )}
        </div>
        <LookTabs
          ground={ground}
          shots={shots}
          selected={selected?.kind === "look" ? selected.look : null}
          onSelect={props.onSelectLook}
          onAdd={(name) => props.onSelectPlaced(name, false)}
        />
        {drop.at !== null && <span className={styles.dropAt} style={{ left: x(drop.at) }} />}
        <Playhead x={x} />
      </div>
    </section>
  );
}

/** A component of its own, so that the strip is not drawn again for every playing frame. */
function Playhead({ x }: { x: (at: number) => number }) {
  const frame = useReelState((state) => state.frame);
  return <span className="playhead" style={{ left: x(frame) }} />;
}
