import { App } from "antd";
import { useCallback, useEffect, useImperativeHandle, useRef, useState } from "react";
import { get, livePicture, problemOf } from "../api/client";
import { since, useArrivals } from "./arrivals";
import { atLevel, type Level, type Pixels } from "./levels";
import { Player, type Clock, type PlayerState } from "./player";

export interface Live {
  path: string;
  body: Pixels & Record<string, unknown>;
}

/** A picture that takes longer than this is shown coarse first, then sharp. */
const AT_ONCE = 45;

export interface ScreenHandle {
  play: (speed?: number) => void;
  stop: () => void;
  toggle: () => void;
}

interface Props {
  /** The address of a frame, at full size or smaller. */
  urlOf: (frame: number, level: Level) => string;
  frame: number;
  first: number;
  end: number;
  rate: number;
  loop: boolean;
  aspect: number;
  label: string;
  /** A change on trial: shown instead of the frame until the person lets go. */
  live?: Live | null;
  onFrame: (frame: number) => void;
  onState?: (state: PlayerState) => void;
  onCost?: (ms: number) => void;
  /** A fault in the frame that is shown; null without one. */
  onFault?: (sentence: string | null) => void;
  /** Sound that sets the pace of the pictures during playback. */
  clock?: Clock | null;
  /** Called when a picture has come or failed. */
  onCame?: () => void;
  ref?: React.Ref<ScreenHandle>;
}

/** The large picture: a still, a film, or a change on trial. */
export function Screen(props: Props) {
  const { urlOf: addressOf, frame, live, aspect, label } = props;
  const arrived = useArrivals((state) => state.count);
  const urlOf = useCallback(
    (at: number, level: Level) => since(addressOf(at, level), arrived),
    [addressOf, arrived],
  );
  const canvas = useRef<HTMLCanvasElement>(null);
  const player = useRef<Player>(new Player());
  const playing = useRef(false);
  const [rolling, setRolling] = useState(false);
  // The address of the sharp picture that is on the screen; empty for any other.
  const drawn = useRef("");
  const [fault, setFault] = useState<string>();
  const { message } = App.useApp();
  const latest = useRef({ ...props, urlOf });
  latest.current = { ...props, urlOf };

  const draw = useCallback((picture: ImageBitmap, level: Level, url = "") => {
    const target = canvas.current;
    if (!target) return;
    drawn.current = level ? "" : url;
    // A coarse picture is drawn at the size of the sharp one before or after it.
    const [width, height] = [picture.width << level, picture.height << level];
    const near = Math.abs(target.width - width) <= 8 && Math.abs(target.height - height) <= 8;
    if (level ? !near : target.width !== width || target.height !== height) {
      target.width = width;
      target.height = height;
    }
    target.dataset.pixels = `${picture.width}x${picture.height}`;
    target.getContext("2d")?.drawImage(picture, 0, 0, target.width, target.height);
  }, []);

  const show = useCallback(
    async (blob: Blob, level: Level = 0, url = "") => {
      const picture = await createImageBitmap(blob);
      draw(picture, level, url);
      picture.close();
      setFault(undefined);
    },
    [draw],
  );

  const url = urlOf(frame, 0);
  const small = urlOf(frame, 1);
  // The recent time of a sharp picture, measured on this screen.
  const took = useRef(0);
  // When playing stops, a coarse or outdated picture is replaced.
  useEffect(() => {
    if (playing.current || live || drawn.current === url) return;
    const stop = new AbortController();
    const come = async (address: string, level: Level = 0) => {
      const answer = await get(address, { signal: stop.signal });
      if (answer.status === 204) return null;
      if (!answer.ok) throw await problemOf(answer);
      const blob = await answer.blob();
      if (stop.signal.aborted) return null;
      await show(blob, level, level ? "" : address);
      return answer;
    };
    void (async () => {
      try {
        if (took.current > AT_ONCE && !(await come(small, 1))) return;
        const began = performance.now();
        const answer = await come(url);
        if (!answer) return;
        took.current = performance.now() - began;
        const cost = answer.headers.get("X-Cost");
        if (cost) latest.current.onCost?.((JSON.parse(cost) as { ms: number }).ms);
        const faults = answer.headers.get("X-Fault");
        latest.current.onFault?.(faults && decodeURIComponent(faults));
        latest.current.onCame?.();
      } catch (error) {
        if (stop.signal.aborted) return;
        setFault((error as Error).message);
        latest.current.onCame?.();
      }
    })();
    return () => stop.abort();
  }, [url, small, live, rolling, show]);

  // During a trial, one request is under way and the newest waits behind it. The picture is coarse
  // if a sharp one takes long, and sharp as soon as nothing newer waits.
  const waiting = useRef<Live | null>(null);
  const busy = useRef(false);
  const sharpening = useRef<AbortController | null>(null);
  useEffect(() => {
    if (!live) {
      waiting.current = null;
      return;
    }
    waiting.current = live;
    sharpening.current?.abort();
    if (busy.current) return;
    busy.current = true;
    void (async () => {
      while (waiting.current) {
        const { path, body } = waiting.current;
        waiting.current = null;
        const stop = new AbortController();
        try {
          if (took.current > AT_ONCE) {
            const blob = await livePicture(path, { ...body, ...atLevel(body, 1) });
            if (blob && latest.current.live) await show(blob, 1);
            if (waiting.current || !latest.current.live) continue;
            sharpening.current = stop;
          }
          const began = performance.now();
          const blob = await livePicture(path, body, stop.signal);
          took.current = performance.now() - began;
          if (blob && latest.current.live) await show(blob);
        } catch (error) {
          if (!stop.signal.aborted) setFault((error as Error).message);
        } finally {
          sharpening.current = null;
        }
      }
      busy.current = false;
    })();
  }, [live, show]);

  const stop = useCallback(() => player.current.stop(), []);
  const play = useCallback(
    (speed = 1) => {
      const now = latest.current;
      let from = now.frame;
      if (speed > 0 && from >= now.end - 1) from = now.first;
      if (speed < 0 && from <= now.first) from = now.end - 1;
      player.current.play(
        from,
        {
          // The present values, so that a change shows during playback.
          get first() {
            return latest.current.first;
          },
          get end() {
            return latest.current.end;
          },
          get rate() {
            return latest.current.rate;
          },
          get loop() {
            return latest.current.loop;
          },
          get clock() {
            return latest.current.clock ?? null;
          },
          urlOf: (at, level) => latest.current.urlOf(at, level),
          draw,
          onFrame: (at) => latest.current.onFrame(at),
          onState: (state) => {
            playing.current = state.playing;
            setRolling(state.playing);
            latest.current.onState?.(state);
          },
          onFault: (sentence) => void message.error(sentence),
        },
        speed,
      );
    },
    [draw, message],
  );
  useImperativeHandle(
    props.ref,
    () => ({ play, stop, toggle: () => (playing.current ? stop() : play()) }),
    [play, stop],
  );
  useEffect(() => {
    const current = player.current;
    return () => current.forget();
  }, []);

  return (
    <span className="picture screen" style={{ aspectRatio: String(aspect) }}>
      <canvas ref={canvas} role="img" aria-label={label} data-testid="screen" />
      {fault && (
        <span className="fault" role="status">
          {fault}
        </span>
      )}
    </span>
  );
}
