import { useEffect, useRef } from "react";
import { runsOf } from "../../player/runs";
import { timecode } from "../../player/timecode";
import { useDrag } from "../../controls/useDrag";
import { reelStore, useReelState } from "../store";
import { LEFT, tickEvery } from "./geometry";
import type { Ground } from "./ground";
import styles from "./Strip.module.css";

interface Props {
  ground: Ground;
  length: number;
  /** The visible pixels. */
  from: number;
  to: number;
  onFrame: (frame: number) => void;
}

/** Timecode, marks and computed frames; click or drag to move the playhead. */
export function Ruler({ ground, length, from, to, onFrame }: Props) {
  const { view, rate, scale, change, snap } = ground;
  const seek = useDrag({
    move: (event, area) => {
      const at = (event.clientX - area.getBoundingClientRect().left - LEFT) / scale.frame;
      onFrame(Math.min(length - 1, Math.max(0, snap(at, event))));
    },
    atOnce: true,
  });
  // Write to the element itself, so that the ruler is not drawn again for every playing frame.
  const box = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      reelStore.subscribe(({ frame }) => {
        box.current?.setAttribute("aria-valuenow", String(frame));
        box.current?.setAttribute("aria-valuetext", timecode(frame, rate));
      }),
    [rate],
  );
  const every = tickEvery(rate, scale.frame);
  const first = Math.max(0, Math.floor((from - LEFT) / scale.frame / every));
  const last = Math.min(Math.floor(length / every), Math.ceil((to - LEFT) / scale.frame / every));
  const ticks = Array.from(
    { length: Math.max(0, last - first + 1) },
    (_, k) => (first + k) * every,
  );
  const { mark_in: begin, mark_out: end } = view;
  return (
    <div
      className={`${styles.ruler} mono`}
      ref={box}
      role="slider"
      tabIndex={0}
      aria-label="Playhead"
      aria-valuemin={0}
      aria-valuemax={length - 1}
      aria-valuenow={reelStore.getState().frame}
      aria-valuetext={timecode(reelStore.getState().frame, rate)}
      onPointerDown={(event) => seek(event)}
    >
      {ticks.map((at) => (
        <span key={at} className={styles.tick} style={{ left: scale.x(at) }}>
          {every * 4 < rate * 4 ? timecode(at, rate) : timecode(at, rate).slice(0, 8)}
        </span>
      ))}
      {(begin !== null || end !== null) && (
        <span
          className={styles.inOut}
          title="From the mark in to the mark out"
          style={{
            left: scale.x(begin ?? 0),
            width: ((end ?? length) - (begin ?? 0)) * scale.frame,
          }}
        />
      )}
      <Ready ground={ground} />
      <Faults ground={ground} />
      {view.marks.map((mark) => (
        <button
          key={mark.frame}
          className={`bare ${styles.mark}`}
          style={{ left: scale.x(mark.frame) }}
          aria-label={`Mark ${mark.name}, ${timecode(mark.frame, rate)}`}
          title={`${mark.name}. Click to go there, Delete to remove it.`}
          onPointerDown={(event) => event.stopPropagation()}
          onClick={() => onFrame(mark.frame)}
          onKeyDown={(event) => {
            if (event.key !== "Delete") return;
            event.stopPropagation();
            void change({ do: "set-mark", frame: mark.frame, name: "" });
          }}
        >
          {mark.name}
        </button>
      ))}
    </div>
  );
}

/** A line under the frames that are computed already. */
function Ready({ ground }: { ground: Ground }) {
  const ready = useReelState((state) => state.ready);
  return runsOf(ready).map(([a, b]) => (
    <span
      key={a}
      className={styles.ready}
      title="Computed already"
      style={{ left: ground.scale.x(a), width: (b - a) * ground.scale.frame }}
    />
  ));
}

/** Frames at which a macro has failed. */
function Faults({ ground }: { ground: Ground }) {
  const faults = useReelState((state) => state.faults);
  return Object.entries(faults).map(([frame, sentence]) => (
    <span
      key={frame}
      className={styles.fault}
      role="img"
      aria-label={`At frame ${frame}: ${sentence}`}
      title={sentence}
      style={{ left: ground.scale.x(Number(frame)) }}
    >
      !
    </span>
  ));
}
