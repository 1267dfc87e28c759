import { Button } from "antd";
import { useState, type RefObject } from "react";
import { useShallow } from "zustand/react/shallow";
import { query, streamOf, type ReelChange, type ReelView } from "../api/client";
import { LEVEL_WORDS, type Level, type Pixels } from "../player/levels";
import { Picture } from "../player/Picture";
import { Screen, type ScreenHandle } from "../player/Screen";
import { SplitLine } from "../player/SplitLine";
import { shownRate, timecode } from "../player/timecode";
import { selectedUses, spanOf } from "./selection";
import { reelStore, useReelState } from "./store";
import { useSound } from "./useSound";
import styles from "./Reel.module.css";

interface Props {
  view: ReelView;
  rate: number;
  trying: ReelChange | null;
  screen: RefObject<ScreenHandle | null>;
}

/** The monitor of the edit: the picture, before and after the selection, the transport. */
export function Monitor({ view, rate, trying, screen }: Props) {
  const { frame, selected, split, before, set } = useReelState(
    useShallow(({ frame, selected, split, before, set }) => ({
      frame,
      selected,
      split,
      before,
      set,
    })),
  );
  const [playing, setPlaying] = useState<{ on: boolean; rate: number; level: Level }>({
    on: false,
    rate: 0,
    level: 0,
  });
  const [loop, setLoop] = useState(false);
  const [range, setRange] = useState<{ first: number; end: number } | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const { id, revision, length } = view;
  const aspect = view.width / view.height;
  const size =
    aspect >= 1
      ? { width: 960, height: even(960 / aspect) }
      : { width: even(540 * aspect), height: 540 };
  const uses = selectedUses(view, selected);
  const without = uses.join(",");
  const held = before ? without : "";
  const urlOf = (at: number, size: Pixels) =>
    `/api/reels/${id}/${revision}/frame.jpg?${query({ frame: at, ...size, without: held })}`;
  const live = trying && {
    path: `/reels/${id}/live`,
    body: { base: revision, change: trying, frame, ...size, stream: streamOf("reel") },
  };
  const sound = useSound(view, rate);
  const play = (span: { first: number; end: number } | null) => {
    setRange(span);
    if (span) set({ frame: span.first });
    setTimeout(() => screen.current?.play(1), 0);
  };
  const marked =
    view.mark_in !== null || view.mark_out !== null
      ? { first: view.mark_in ?? 0, end: view.mark_out ?? length }
      : null;
  const span = spanOf(view, selected);
  const join = selected?.kind === "cuts" ? span : null;
  const words = selected?.kind === "cuts" ? "Play this join" : "Play what is selected";
  return (
    <section className={styles.reelMid} aria-label="Monitor">
      <div className="ground">
        {length ? (
          <div className={styles.screenBox}>
            <Screen
              ref={screen}
              urlOf={urlOf}
              full={size}
              frame={frame}
              first={range?.first ?? marked?.first ?? 0}
              end={range?.end ?? marked?.end ?? length}
              rate={rate}
              loop={loop}
              aspect={aspect}
              label={`Frame ${frame} of ${view.name}`}
              live={live}
              clock={sound.clock}
              onFrame={(at) => set({ frame: at })}
              onFault={(sentence) => {
                setFault(sentence);
                const { faults } = reelStore.getState();
                if (sentence && !faults[frame]) set({ faults: { ...faults, [frame]: sentence } });
              }}
              onState={(state) => {
                setPlaying({ on: state.playing, rate: state.rate, level: state.level });
                if (state.ready !== reelStore.getState().ready) set({ ready: state.ready });
              }}
            />
            {split !== null && without && !playing.on && (
              <>
                <span
                  className={styles.splitOver}
                  style={{ clipPath: `inset(0 ${(1 - split) * 100}% 0 0)` }}
                >
                  <Picture
                    url={`/api/reels/${id}/${revision}/frame.jpg?${query({ frame, ...size, without })}`}
                    alt="Before: without what is selected"
                    aspect={aspect}
                  />
                </span>
                <SplitLine
                  label="Line between before and after"
                  at={split}
                  onAt={(at) => set({ split: at })}
                />
              </>
            )}
            {before && <span className={styles.flag}>before</span>}
          </div>
        ) : (
          <p className={styles.emptyReel}>Put a shot on the strip to begin.</p>
        )}
      </div>
      <div className="stat mono">
        <span>{timecode(frame, rate)}</span>
        {join &&
          selected?.kind === "cuts" &&
          frame >= join.first &&
          frame < join.end &&
          uses.length > 0 && (
            <span>
              join {frame - join.first + 1} of {join.end - join.first}
            </span>
          )}
        <span>{playing.on ? `${playing.rate.toFixed(1)} fps` : `${shownRate(rate)} fps`}</span>
        {playing.on && playing.level > 0 && <span>{LEVEL_WORDS[playing.level]}</span>}
        {fault && (
          <span className="bad" title={fault} role="status">
            {fault}
          </span>
        )}
      </div>
      <div className="transport">
        <Button
          onClick={() => {
            setRange(null);
            if (playing.on) screen.current?.stop();
            else play(null);
          }}
          disabled={!length}
        >
          {playing.on ? "Stop" : "Play"}
        </Button>
        <Button
          disabled={!span}
          onClick={() =>
            span &&
            play({ first: Math.max(0, span.first - 12), end: Math.min(length, span.end + 12) })
          }
        >
          {words}
        </Button>
        <Button
          aria-pressed={loop}
          type={loop ? "primary" : "default"}
          onClick={() => setLoop(!loop)}
        >
          Loop
        </Button>
        <Button
          disabled={!without}
          aria-pressed={split !== null}
          type={split !== null ? "primary" : "default"}
          title="Left of the line you see the edit without the selected macros. Hold B to see the whole picture without them."
          onClick={() => set({ split: split === null ? 0.5 : null })}
        >
          Before | after
        </Button>
        {sound.has && (
          <Button aria-pressed={!sound.muted} onClick={sound.toggle}>
            {sound.muted ? "Sound is off" : "Sound is on"}
          </Button>
        )}
      </div>
    </section>
  );
}

function even(value: number): number {
  return Math.max(2, Math.round(value / 2) * 2);
}
