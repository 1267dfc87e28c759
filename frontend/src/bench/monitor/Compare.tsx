import { useEffect, useRef, useState } from "react";
import type { DraftView } from "../../api/client";
import { useExact, type Source } from "./exact";
import { SplitLine } from "../../player/SplitLine";
import { frameUrl } from "../frames";
import { apart, channelOf, differenceOf, meanOf } from "./pixels";
import { useBenchOf, type Place } from "../store";
import styles from "./Compare.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  size: { width: number; height: number };
  step: Place | null;
  pass: number | undefined;
  /** A change on trial, in the form for the monitor. */
  live: { path: string; body: unknown } | null;
  onCompared: (said: string) => void;
}

/** The share of pixels that differ, in words. */
const sharedWords = (share: number) =>
  share > 0.9995 ? "all pixels" : `${(share * 100).toFixed(1)} % of pixels`;

/** Exact pictures, processed in the browser: one channel, two sides, two moments, a difference. */
export function Compare(props: Props) {
  const { draft, frame, length, size, step, pass, live, onCompared } = props;
  const { view, against, base, channel, gain, other, selected } = useBenchOf(
    "view",
    "against",
    "base",
    "channel",
    "gain",
    "other",
    "selected",
  );
  const canvas = useRef<HTMLCanvasElement>(null);
  const [line, setLine] = useState(0.5);
  const exact = { form: "png" } as const;
  const revision = base !== null && view === "split" ? { revision: base } : {};
  const own: Source = (base === null ? live : null) ?? {
    url: frameUrl(draft, frame, length, size, { step, pass, ...revision, ...exact }),
  };
  const two = view === "split" || view === "overlay" || view === "difference";
  const second = useSecond();
  const one = useExact(own);
  const beside = useExact(two ? second : null);
  const fault = one.fault ?? beside.fault;

  function useSecond(): Source | null {
    if (view === "overlay" || against === "moment")
      return { url: frameUrl(draft, other, length, size, { step, pass, ...exact }) };
    if (against === "without")
      return selected
        ? { url: frameUrl(draft, frame, length, size, { without: selected, ...exact }) }
        : null;
    if (against.startsWith("stage:"))
      return {
        url: frameUrl(draft, frame, length, size, { revision: Number(against.slice(6)), ...exact }),
      };
    const clip = clipOf(draft);
    return clip ? { url: frameUrl(draft, frame, length, size, { step: clip, ...exact }) } : null;
  }

  useEffect(() => {
    const target = canvas.current;
    const first = one.pixels;
    if (!target || !first) return;
    if (target.width !== first.width || target.height !== first.height) {
      target.width = first.width;
      target.height = first.height;
    }
    const context = target.getContext("2d", { willReadFrequently: true })!;
    const put = (picture: ImageData, left = 0, right = picture.width) =>
      context.putImageData(
        channelOf(picture, channel),
        0,
        0,
        left,
        0,
        right - left,
        picture.height,
      );
    context.clearRect(0, 0, target.width, target.height);
    const other = beside.pixels;
    const alike = other && other.width === first.width && other.height === first.height;
    target.dataset.ready = String(!two || Boolean(alike));
    if (!two || !other || !alike) {
      put(first);
      return;
    }
    if (view === "split") {
      const at = Math.round(line * first.width);
      put(other, 0, at);
      put(first, at);
    } else if (view === "overlay") put(meanOf(first, other));
    else put(differenceOf(first, other, gain));
  }, [one.pixels, beside.pixels, view, two, channel, gain, line]);

  // Their difference is computed when one of them changes, not when the line moves.
  useEffect(() => {
    const [first, other] = [one.pixels, two ? beside.pixels : null];
    if (!first || !other || first.width !== other.width || first.height !== other.height)
      return onCompared("");
    const { most, share } = apart(first, other);
    onCompared(
      most ? `largest difference ${most} of 255; ${sharedWords(share)} differ` : "no difference",
    );
  }, [one.pixels, beside.pixels, two, onCompared]);

  return (
    <div className={styles.compare}>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Compared, ${view}, ${channel}`}
        data-testid="compared"
      />
      {view === "split" && (
        <SplitLine label="Line between the two pictures" at={line} onAt={setLine} />
      )}
      {two && !second && (
        <span className="fault" role="status">
          Select a step to see the picture without it.
        </span>
      )}
      {fault && (
        <span className="fault" role="status">
          {fault}
        </span>
      )}
    </div>
  );
}

/** The clip that an effect works on: the first slot's step. */
export function clipOf(draft: DraftView): Place | null {
  const { slots = [], lanes } = draft.effect;
  for (const slot of slots)
    for (const lane of lanes)
      for (const step of lane.steps ?? [])
        if (step.kind === "slot" && (step.values?.["slot"] ?? "clip") === slot.id)
          return { lane: lane.id, step: step.id };
  return null;
}
