import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import type { Shot } from "../../api/client";
import { useVisible } from "../../player/useVisible";
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

/** The sound of a shot under its pictures, at its gain. */
export function Waveform({ source, length, from, rate, wide }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [place, visible] = useVisible<HTMLSpanElement>();
  const { material, sound } = source;
  const peaks = useQuery({
    queryKey: ["peaks", material],
    enabled: sound && visible,
    staleTime: Infinity,
    queryFn: async () => {
      const answer = await fetch(`/api/materials/${material}/peaks`);
      return answer.ok ? new Uint8Array(await answer.arrayBuffer()) : new Uint8Array();
    },
  });
  const pixels = Math.max(1, Math.min(WIDEST, Math.round(wide)));
  const pace = source.direction === "freeze" ? 0 : source.speed / 100;
  const quiet = source.mute || pace === 0;
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || !peaks.data?.length) return;
    const colour = getComputedStyle(canvas.current!).color;
    const gain = quiet ? 1 : 10 ** (source.gain / 20);
    context.clearRect(0, 0, pixels, HIGH);
    context.fillStyle = colour;
    const seconds = (x: number) => {
      const at = (x / pixels) * length;
      return (from + (source.direction === "backwards" ? length - at : at) * pace) / rate;
    };
    for (let x = 0; x < pixels; x += 1) {
      const ends = [seconds(x) * PEAKS, seconds(x + 1) * PEAKS];
      const first = Math.floor(Math.min(...ends));
      const last = Math.max(first + 1, Math.ceil(Math.max(...ends)));
      let loud = 0;
      for (let k = first; k < last; k += 1) loud = Math.max(loud, peaks.data[k] ?? 0);
      // By the square root, so that quiet sound can be seen beside loud.
      const high = Math.min(1, Math.sqrt((loud / 255) * gain)) * HIGH;
      context.fillRect(x, (HIGH - high) / 2, 1, Math.max(1, high));
    }
  }, [peaks.data, pixels, length, from, pace, rate, quiet, source.gain, source.direction]);
  if (!sound) return null;
  return (
    <span ref={place} className={`${styles.wave} ${quiet ? styles.quiet : ""}`}>
      <canvas
        ref={canvas}
        width={pixels}
        height={HIGH}
        aria-hidden
        data-testid={`wave-${source.id}`}
      />
      {source.mute && <span className={styles.waveWord}>muted</span>}
    </span>
  );
}
