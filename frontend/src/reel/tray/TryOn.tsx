import { useEffect, useState } from "react";
import { query, type MacroCard, type ReelView } from "../../api/client";
import { Picture } from "../../player/Picture";
import type { Trial } from "./places";
import styles from "./Tray.module.css";

interface Props {
  view: ReelView;
  macro: MacroCard;
  trial: Trial;
  used: boolean;
  liked: boolean;
  onLike: () => void;
  onPick: () => void;
}

const STEPS = 12;
const RESTS_AT = 0.48;

/** The address of a frame of the edit with a change on trial. */
export const triedAt = (view: ReelView, change: unknown, frame: number, high = 144) =>
  `/api/reels/${view.id}/${view.revision}/try-on.jpg?${query({
    change: JSON.stringify(change),
    frame,
    width: Math.max(2, Math.round(high * Math.min(2.4, view.width / view.height))),
    height: high,
  })}`;

/** A macro shown at the place where it would go; it plays while hovered or focused. */
export function TryOn({ view, macro, trial, used, liked, onLike, onPick }: Props) {
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(RESTS_AT);
  useEffect(() => {
    if (!playing) return;
    const began = performance.now();
    const timer = setInterval(() => {
      const share = ((performance.now() - began) / 1400) % 1.2;
      setAt(Math.round(Math.min(1, share) * STEPS) / STEPS);
    }, 60);
    return () => {
      clearInterval(timer);
      setAt(RESTS_AT);
    };
  }, [playing]);
  const frame = trial.first + Math.round(at * (trial.end - trial.first - 1));
  return (
    <div className={`${styles.trayCard} ${used ? styles.used : ""}`}>
      <button
        className="bare"
        aria-pressed={used}
        onClick={onPick}
        onMouseEnter={() => setPlaying(true)}
        onMouseLeave={() => setPlaying(false)}
        onFocus={() => setPlaying(true)}
        onBlur={() => setPlaying(false)}
        title={macro.sentence}
      >
        <Picture
          url={triedAt(view, trial.change, Math.max(0, frame))}
          alt=""
          aspect={Math.min(2.4, view.width / view.height)}
        />
        {macro.name} {used && <span className="soft">in use</span>}
      </button>
      <button
        className={`bare ${styles.star}`}
        aria-pressed={liked}
        aria-label={`Favourite: ${macro.name}`}
        onClick={onLike}
      >
        {liked ? "★" : "☆"}
      </button>
    </div>
  );
}
