import { useEffect, useRef, useState } from "react";
import type { JoinView, ReelChange, ReelView, Shot } from "../api/client";
import { Picture } from "../player/Picture";
import { timecode } from "../player/timecode";
import type { ChangeReel, Selection } from "./useReel";
import styles from "./Strip.module.css";

interface Props {
  view: ReelView;
  rate: number;
  frame: number;
  selected: Selection;
  onFrame: (frame: number) => void;
  onSelect: (selected: Selection) => void;
  change: ChangeReel;
  onTry: (change: ReelChange | null) => void;
}

const LEFT = 20;

/** The edit like film on a table: shots, the joins as the overlaps they are, the playhead. */
export function Strip(props: Props) {
  const { view, rate, frame, selected, onFrame, onSelect, change, onTry } = props;
  const box = useRef<HTMLDivElement>(null);
  const [wide, setWide] = useState(1200);
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => entry && setWide(entry.contentRect.width));
    if (box.current) watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const length = Math.max(view.length, 1);
  // The whole edit fits, with a little room after its end, until frames get too narrow to grasp.
  const scale = Math.max(1.2, (wide - LEFT * 2) / (length * 1.04));
  const x = (at: number) => LEFT + at * scale;
  const seek = (event: React.PointerEvent) => {
    if (event.type === "pointermove" && !(event.buttons & 1)) return;
    const area = event.currentTarget as HTMLElement;
    const at = Math.round((event.clientX - area.getBoundingClientRect().left - LEFT) / scale);
    onFrame(Math.min(length - 1, Math.max(0, at)));
    if (event.type === "pointerdown") area.setPointerCapture(event.pointerId);
  };
  const shots = view.shots;
  const base = Math.ceil(rate);
  const every = [1, 2, 5, 10, 30, 60, 300].find((seconds) => seconds * base * scale > 90) ?? 600;
  const ticks = Array.from(
    { length: Math.floor(length / (every * base)) + 1 },
    (_, k) => k * every * base,
  );

  return (
    <section className={styles.strip} aria-label="Strip" ref={box}>
      <div
        style={{ width: Math.max(wide, x(length) + LEFT), position: "relative", height: "100%" }}
      >
        <div
          className={`${styles.ruler} mono`}
          role="slider"
          tabIndex={0}
          aria-label="Playhead"
          aria-valuemin={0}
          aria-valuemax={length - 1}
          aria-valuenow={frame}
          aria-valuetext={timecode(frame, rate)}
          onPointerDown={seek}
          onPointerMove={seek}
        >
          {ticks.map((at) => (
            <span key={at} style={{ left: x(at) }}>
              {timecode(at, rate).slice(0, 8)}
            </span>
          ))}
        </div>
        <div className={styles.shots}>
          {shots.map((shot) => (
            <ShotBlock
              key={shot.id}
              shot={shot}
              rate={rate}
              left={x(shot.begins)}
              scale={scale}
              selected={selected?.kind === "shot" && selected.shot === shot.id}
              onSelect={() => onSelect({ kind: "shot", shot: shot.id })}
              change={change}
            />
          ))}
          {shots.slice(0, -1).map((shot, index) => {
            const cut = shots[index + 1]!.begins;
            const join = view.joins.find((one) => one.left === shot.id);
            const mine = selected?.kind === "cut" && selected.left === shot.id;
            const names = `${shot.name} and ${shots[index + 1]!.name}`;
            return join ? (
              <JoinBlock
                key={`cut-${shot.id}`}
                join={join}
                x={x}
                scale={scale}
                selected={mine}
                label={`${join.name} · ${join.end - join.first} frames, between ${names}`}
                onSelect={() => onSelect({ kind: "cut", left: shot.id })}
                change={change}
                onTry={onTry}
              />
            ) : (
              <button
                key={`cut-${shot.id}`}
                className={`bare ${styles.cut} ${mine ? "selected" : ""}`}
                style={{ left: x(cut) - 12 }}
                aria-label={`Cut between ${names}`}
                onClick={() => onSelect({ kind: "cut", left: shot.id })}
              />
            );
          })}
        </div>
        <span className="playhead" style={{ left: x(frame) }} />
      </div>
    </section>
  );
}

interface ShotProps {
  shot: Shot;
  rate: number;
  left: number;
  scale: number;
  selected: boolean;
  onSelect: () => void;
  change: ChangeReel;
}

function ShotBlock({ shot, rate, left, scale, selected, onSelect, change }: ShotProps) {
  const [trim, setTrim] = useState<{ start: number; length: number } | null>(null);
  const start = trim?.start ?? shot.start;
  const length = trim?.length ?? shot.length;
  const grab = (side: "head" | "tail") => (event: React.PointerEvent) => {
    event.stopPropagation();
    onSelect();
    const from = event.clientX;
    const handle = event.currentTarget as HTMLElement;
    handle.setPointerCapture(event.pointerId);
    const first = shot.start;
    let next = { start: first, length: shot.length };
    handle.onpointermove = (move) => {
      const by = Math.round((move.clientX - from) / scale);
      if (side === "tail") {
        const most = shot.lasts === null ? Infinity : shot.lasts - first;
        next = { start: first, length: Math.min(Math.max(1, shot.length + by), Math.max(1, most)) };
      } else {
        const shift = Math.min(Math.max(by, -first), shot.length - 1);
        next = { start: first + shift, length: shot.length - shift };
      }
      setTrim(next);
    };
    handle.onpointerup = () => {
      handle.onpointermove = handle.onpointerup = null;
      if (next.start !== first || next.length !== shot.length)
        void change({ do: "set-shot", shot: shot.id, ...next }).finally(() => setTrim(null));
      else setTrim(null);
    };
  };
  const wide = length * scale;
  const pictures = Math.max(1, Math.min(3, Math.floor(wide / 110)));
  const places = pictures === 1 ? [0.5] : pictures === 2 ? [0, 1] : [0, 0.5, 1];
  return (
    <div className={`${styles.shot} ${selected ? "selected" : ""}`} style={{ left, width: wide }}>
      <button
        className={`bare ${styles.shotBody}`}
        onClick={onSelect}
        aria-label={`Shot ${shot.name}, ${length} frames`}
      >
        {places.map((place) => (
          <Picture
            key={place}
            url={`/api/materials/${shot.material}/picture.jpg?seconds=${(
              Math.round(start + place * (length - 1)) / rate
            ).toFixed(6)}&width=256&height=144`}
            alt=""
          />
        ))}
        <b>{shot.name}</b>
        {trim && (
          <span className={`${styles.trim} mono`}>
            from {start}, {length} frames
          </span>
        )}
      </button>
      <span
        className={`${styles.grip} ${styles.head}`}
        onPointerDown={grab("head")}
        title="Drag to trim the beginning"
      />
      <span
        className={`${styles.grip} ${styles.tail}`}
        onPointerDown={grab("tail")}
        title="Drag to trim the end"
      />
    </div>
  );
}

interface JoinProps {
  join: JoinView;
  x: (frame: number) => number;
  scale: number;
  selected: boolean;
  label: string;
  onSelect: () => void;
  change: ChangeReel;
  onTry: (change: ReelChange | null) => void;
}

function JoinBlock({ join, x, scale, selected, label, onSelect, change, onTry }: JoinProps) {
  const [length, setLength] = useState<number | null>(null);
  const frames = length ?? join.end - join.first;
  const before = Math.round((join.cut - join.first) * (frames / (join.end - join.first)));
  const stretch = (way: 1 | -1) => (event: React.PointerEvent) => {
    event.stopPropagation();
    onSelect();
    const from = event.clientX;
    const handle = event.currentTarget as HTMLElement;
    handle.setPointerCapture(event.pointerId);
    const whole = join.end - join.first;
    const both = join.cut > join.first && join.cut < join.end ? 2 : 1;
    let next = whole;
    handle.onpointermove = (move) => {
      next = Math.max(2, whole + Math.round((way * both * (move.clientX - from)) / scale));
      setLength(next);
      onTry({ do: "set-join", join: join.id, length: next });
    };
    handle.onpointerup = () => {
      handle.onpointermove = handle.onpointerup = null;
      if (next === whole) return setLength(null);
      void change({ do: "set-join", join: join.id, length: next }).finally(() => setLength(null));
    };
  };
  const { handles } = join;
  const spare = (need: number, there: number | null) =>
    there === null ? 0 : Math.max(0, Math.min(there - need, 200));
  return (
    <>
      <span
        className={styles.handle}
        style={{ left: x(join.end), width: spare(handles.left_needs, handles.left_spare) * scale }}
        title="Frames the first shot has to spare"
      />
      <span
        className={styles.handle}
        style={{
          left: x(join.first) - spare(handles.right_needs, handles.right_spare) * scale,
          width: spare(handles.right_needs, handles.right_spare) * scale,
        }}
        title="Frames the second shot has to spare"
      />
      <div
        className={`${styles.join} ${selected ? "selected" : ""} ${handles.short ? styles.short : ""}`}
        style={{ left: x(join.cut - before), width: frames * scale }}
      >
        <button className={`bare ${styles.joinBody}`} onClick={onSelect} aria-label={label}>
          <span>
            {join.name} · <span className="mono">{frames}</span>
            {handles.short && " · short"}
          </span>
        </button>
        <span
          className={`${styles.grip} ${styles.head}`}
          onPointerDown={stretch(-1)}
          title="Drag to stretch"
        />
        <span
          className={`${styles.grip} ${styles.tail}`}
          onPointerDown={stretch(1)}
          title="Drag to stretch"
        />
      </div>
    </>
  );
}
