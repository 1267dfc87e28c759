import { Button, Input, Switch } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asked } from "../../api/asked";
import type { DraftView } from "../../api/client";
import { isLink } from "../../api/values";
import { NumberField } from "../../controls/NumberField";
import type { ScreenHandle } from "../../player/Screen";
import { runsOf } from "../../player/runs";
import { framesOf, rateOf, timecode } from "../../player/timecode";
import { shareAcross, useDrag } from "../../controls/useDrag";
import { sinceOf } from "../frames";
import { playsBackwards } from "../moves/keys";
import { usePlaying } from "../monitor/playing";
import { useBenchOf } from "../store";
import { StripPictures } from "./StripPictures";
import type { ChangeDraft } from "../useDraft";
import styles from "./Filmstrip.module.css";

const TRIES = [6, 12, 25, 50, 100];

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  screen: React.RefObject<ScreenHandle | null>;
  change: ChangeDraft;
}

/** The whole effect at a glance: eleven frames, its coverage, the playhead. */
export function Filmstrip({ draft, frame, length, screen, change }: Props) {
  const { go, loop, set, setLength, shape, range } = useBenchOf(
    "go",
    "loop",
    "set",
    "setLength",
    "shape",
    "range",
  );
  const rate = rateOf(draft.effect.rate);
  const { playing, ready } = usePlaying();
  const coverage = useQuery({
    ...asked.coverage({ id: draft.id, revision: sinceOf(draft) }, length),
    placeholderData: (before) => before,
    retry: false,
  });
  const curves = useQuery({
    ...asked.curves(draft, length),
    placeholderData: (before) => before,
    retry: false,
  });
  const places = [
    ...new Set((curves.data?.curves ?? []).flatMap((one) => one.keys.map((key) => key.share))),
  ];
  const shares = coverage.data?.shares ?? [];
  const share = length > 1 ? frame / (length - 1) : 0;
  const scrub = useDrag({
    move: (event, strip) => {
      screen.current?.stop();
      go(Math.round(shareAcross(strip, event) * (length - 1)));
    },
    atOnce: true,
  });
  const lengthen = (frames: number) => {
    setLength(null);
    void change({ do: "set-head", seconds: Math.max(1, frames) / rate });
  };
  const points = shares.map((one, at) => `${(at / (shares.length - 1)) * 100},${26 - one * 24}`);
  const place = share * (shares.length - 1);
  const low = shares[Math.floor(place)] ?? 0;
  const now = low + (place % 1) * ((shares[Math.ceil(place)] ?? low) - low);
  const what = draft.effect.kind === "transition" ? "uncovered" : "covered";
  return (
    <div className={styles.filmstrip}>
      <div
        className={styles.stripFrames}
        role="slider"
        tabIndex={0}
        aria-label="Playhead"
        aria-valuemin={0}
        aria-valuemax={length - 1}
        aria-valuenow={frame}
        aria-valuetext={`Frame ${frame} of ${length}`}
        onPointerDown={(event) => scrub(event)}
      >
        <StripPictures draft={draft} length={length} shape={shape} />
        <svg viewBox="0 0 100 27" preserveAspectRatio="none" aria-hidden>
          {runsOf(ready).map(([first, end]) => (
            <rect
              key={first}
              className={styles.ready}
              x={(first / length) * 100}
              width={((end - first) / length) * 100}
              y={25}
              height={2}
            />
          ))}
          {points.length > 1 && (
            <>
              <polygon className={styles.coverArea} points={`0,26 ${points.join(" ")} 100,26`} />
              <polyline className={styles.coverLine} points={points.join(" ")} />
              {draft.effect.kind === "transition" && (
                <line className={styles.coverEven} x1={0} y1={26} x2={100} y2={2} />
              )}
            </>
          )}
        </svg>
        {range && (
          <span
            className={styles.stripRange}
            style={{
              left: `${(range[0] / Math.max(1, length - 1)) * 100}%`,
              right: `${100 - (range[1] / Math.max(1, length - 1)) * 100}%`,
            }}
          />
        )}
        {places.map((at) => (
          <span key={at} className={styles.stripKey} style={{ left: `${at * 100}%` }} />
        ))}
        <span className="playhead" style={{ left: `${share * 100}%` }} />
        <span className={styles.covered}>
          {what} <b className="mono">{shares.length ? `${Math.round(now * 100)} %` : "–"}</b>
        </span>
      </div>
      <div className="transport">
        <Button
          size="small"
          onClick={() => screen.current?.toggle()}
          aria-label={playing ? "Stop" : "Play"}
        >
          {playing ? "Stop" : "Play"}
        </Button>
        <span className="mono">{timecode(frame, rate)}</span>
        <span className="soft">of</span>
        <NumberField
          label="Length in frames"
          rate={rate}
          value={draft.frames}
          unit="frames"
          whole
          onCommit={(frames) => lengthen(frames)}
        />
        <Timecode frames={draft.frames} rate={rate} onCommit={lengthen} />
        <span className="soft">try</span>
        {TRIES.map((frames) => (
          <button
            key={frames}
            className={`bare mono ${styles.try}`}
            aria-pressed={length === frames}
            onClick={() => {
              screen.current?.stop();
              setLength(frames === length ? null : frames);
              go(Math.round(share * (frames - 1)));
            }}
          >
            {frames}
          </button>
        ))}
        <span className={styles.loopGroup}>
          <label className={styles.loop}>
            <Switch
              size="small"
              checked={loop}
              onChange={(on) => set({ loop: on })}
              aria-label="Loop"
            />{" "}
            loop
          </label>
          <Button
            size="small"
            type="text"
            title="Loop from the playhead on"
            aria-label="Loop from here: from the playhead on"
            onClick={() => set({ range: [frame, Math.max(frame, range?.[1] ?? length - 1)] })}
          >
            from here
          </Button>
          <Button
            size="small"
            type="text"
            title="Loop up to the playhead"
            aria-label="Loop to here: up to the playhead"
            onClick={() => set({ range: [Math.min(frame, range?.[0] ?? 0), frame] })}
          >
            to here
          </Button>
          {range && (
            <button
              className="bare mono"
              onClick={() => set({ range: null })}
              title="Loop all of it"
            >
              {range[0]}–{range[1]} ×
            </button>
          )}
        </span>
        <label className={styles.loop}>
          <Switch
            size="small"
            checked={playsBackwards(draft.effect)}
            disabled={isLink(draft.effect.backwards)}
            onChange={(backwards) => void change({ do: "set-head", backwards })}
            aria-label="Play backwards"
          />{" "}
          backwards
        </label>
      </div>
    </div>
  );
}

/** The length as timecode, to type; text that cannot be read leaves it unchanged. */
function Timecode(props: { frames: number; rate: number; onCommit: (frames: number) => void }) {
  const { frames, rate, onCommit } = props;
  const shown = timecode(frames, rate);
  const [text, setText] = useState<string | null>(null);
  return (
    <Input
      size="small"
      variant="borderless"
      className={styles.timecodeField}
      aria-label="Length as timecode"
      value={text ?? shown}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => {
        const found = text === null ? null : framesOf(text, rate);
        setText(null);
        if (found !== null && found !== frames) onCommit(Math.max(1, found));
      }}
      onPressEnter={(event) => event.currentTarget.blur()}
    />
  );
}
