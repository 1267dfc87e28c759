import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Shot } from "../../api/client";
import styles from "./Strip.module.css";

interface Props {
  source: Shot;
  length: number;
  from: number;
  rate: number;
  wide: number;
}

/** Peaks a second, as the server gives them. */
const PEAKS = 50;
const HIGH = 26;
const WIDEST = 4000;

/**
 * The sound of a shot under its pictures, at its gain. It is a path, because the browser copies
 * every visible canvas for each frame of scrolling.
 */
export function Waveform({ source, length, from, rate, wide }: Props) {
  const { material, sound, gain, direction } = source;
  const peaks = useQuery({
    queryKey: ["peaks", material],
    enabled: sound,
    staleTime: Infinity,
    queryFn: async () => {
      const answer = await fetch(`/api/materials/${material}/peaks`);
      return answer.ok ? new Uint8Array(await answer.arrayBuffer()) : new Uint8Array();
    },
  });
  const pixels = Math.max(1, Math.min(WIDEST, Math.round(wide)));
  const pace = direction === "freeze" ? 0 : source.speed / 100;
  const quiet = source.mute || pace === 0;
  const outline = useMemo(() => {
    const loudness = peaks.data;
    if (!loudness?.length) return "";
    const factor = quiet ? 1 : 10 ** (gain / 20);
    const seconds = (x: number) => {
      const at = (x / pixels) * length;
      return (from + (direction === "backwards" ? length - at : at) * pace) / rate;
    };
    const above: string[] = [];
    const below: string[] = [];
    for (let x = 0; x < pixels; x += 1) {
      const ends = [seconds(x) * PEAKS, seconds(x + 1) * PEAKS];
      const first = Math.floor(Math.min(...ends));
      const last = Math.max(first + 1, Math.ceil(Math.max(...ends)));
      let loud = 0;
      for (let k = first; k < last; k += 1) loud = Math.max(loud, loudness[k] ?? 0);
      // By the square root, so that quiet sound is visible beside loud sound.
      const high = Math.max(1, Math.min(1, Math.sqrt((loud / 255) * factor)) * HIGH) / 2;
      above.push(`${x} ${(HIGH / 2 - high).toFixed(1)}`);
      below.push(`${x} ${(HIGH / 2 + high).toFixed(1)}`);
    }
    return `M${above.join("L")}L${below.reverse().join("L")}Z`;
  }, [peaks.data, pixels, length, from, pace, rate, quiet, gain, direction]);
  if (!sound) return null;
  return (
    <span className={`${styles.wave} ${quiet ? styles.quiet : ""}`}>
      <svg viewBox={`0 0 ${pixels} ${HIGH}`} preserveAspectRatio="none" aria-hidden>
        <path d={outline} data-testid={`wave-${source.id}`} />
      </svg>
      {source.mute && <span className={styles.waveWord}>muted</span>}
    </span>
  );
}
