import { App } from "antd";
import {
  useCallback,
  useEffect,
  useImperativeHandle,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { costOf, livePicture, problemOf, type PictureCost } from "../api/client";
import { get } from "../api/get";
import { since, useArrivals } from "./arrivals";
import { atLevel, COARSEST, sizeIn, type Level, type Pixels } from "./levels";
import { Player, type Clock, type Played, type PlayerState } from "./player";

export interface Live {
  path: string;
  body: Pixels & Record<string, unknown>;
}

/** A picture that takes longer than this is shown coarse first, then sharp; one that takes much
 * longer, coarser still. */
const AT_ONCE = 45;
const LONG = 4 * AT_ONCE;
/** Milliseconds of rest until the full picture is fetched, and the frames after it. */
const REST = 500;
const LONG_REST = 1000;

export interface ScreenHandle {
  play: (speed?: number) => void;
  stop: () => void;
  toggle: () => void;
}

interface Props {
  /** The address of a frame at a size. */
  urlOf: (frame: number, size: Pixels) => string;
  /** The full size. The screen asks for fewer pixels while it has fewer. */
  full: Pixels;
  /** Whether the picture is enlarged, so that full pictures are seen at once. */
  zoomed?: boolean;
  /** Whether each frame continues from the frame before it, so that a jump takes long. */
  feedsBack?: boolean;
  frame: number;
  first: number;
  end: number;
  rate: number;
  loop: boolean;
  aspect: number;
  label: string;
  /** A change on trial: shown instead of the frame until the person lets go. */
  live?: Live | null;
  /** Whether what was on trial is what the present address shows, because it was saved. */
  saved?: (tried: Live["body"]) => boolean;
  onFrame: (frame: number) => void;
  onState?: (state: PlayerState) => void;
  onCost?: (cost: PictureCost) => void;
  /** A fault in the frame that is shown; null without one. */
  onFault?: (sentence: string | null) => void;
  /** Sound that sets the pace of the pictures during playback. */
  clock?: Clock | null;
  /** Called when a picture of a size has come or failed. */
  onCame?: (size: Pixels) => void;
  /** Called with the size that the screen asks for first. */
  onSize?: (size: Pixels) => void;
  ref?: React.Ref<ScreenHandle>;
}

/** The large picture: a still, a film, or a change on trial. */
export function Screen(props: Props) {
  const { urlOf: addressOf, frame, live, aspect, label, full, zoomed = false } = props;
  const arrived = useArrivals((state) => state.count);
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLSpanElement>(null);
  const height = useHeight(box);
  const size = useMemo(
    () => (height === null ? null : zoomed ? full : sizeIn(height, full)),
    // A full size is written anew each time.
    [height, zoomed, full.width, full.height], // eslint-disable-line react-hooks/exhaustive-deps
  );
  const urlOf = useCallback(
    (at: number, level: Level) => (size ? since(addressOf(at, atLevel(size, level)), arrived) : ""),
    [addressOf, arrived, size],
  );
  const player = useRef<Player>(new Player());
  const playing = useRef(false);
  const [rolling, setRolling] = useState(false);
  // The address of the sharp picture that is on the screen; empty for any other.
  const drawn = useRef("");
  // What was on trial, if its picture is on the screen.
  const tried = useRef<{ body: Live["body"]; level: Level } | null>(null);
  // The frame whose full picture came last, and its size. A change of a value there needs no more
  // pixels than are seen.
  const rested = useRef("");
  const [fault, setFault] = useState<string>();
  const { message } = App.useApp();
  const latest = useRef({ ...props, urlOf, size });
  latest.current = { ...props, urlOf, size };
  const onSize = props.onSize;
  useEffect(() => {
    if (size) onSize?.(size);
  }, [size, onSize]);

  const draw = useCallback((picture: ImageBitmap, level: Level, url = "") => {
    const target = canvas.current;
    // A coarse picture that comes after the sharp one is of no use.
    if (!target || (level && url && drawn.current === url)) return;
    drawn.current = level ? "" : url;
    tried.current = null;
    // A coarse picture is drawn over the sharp one before it, if they have one shape.
    const { width, height } = picture;
    const near = Math.abs(target.width * height - target.height * width) <= 8 * target.width;
    if (level ? !near : target.width !== width || target.height !== height) {
      target.width = width;
      target.height = height;
    }
    target.dataset.pixels = `${picture.width}x${picture.height}`;
    target.getContext("2d")?.drawImage(picture, 0, 0, target.width, target.height);
  }, []);

  const show = useCallback(
    async (blob: Blob, level: Level = 0, url = "", signal?: AbortSignal) => {
      const picture = await createImageBitmap(blob);
      // Something newer may be on the screen by now, such as a trial that was saved.
      if (signal?.aborted) return picture.close();
      draw(picture, level, url);
      picture.close();
      setFault(undefined);
    },
    [draw],
  );

  const url = urlOf(frame, 0);
  const half = urlOf(frame, 1);
  const coarsest = urlOf(frame, COARSEST);
  const sharp = size && since(addressOf(frame, full), arrived);
  // The recent time of a sharp picture, measured on this screen.
  const took = useRef(0);
  // The frame that was asked for last at rest.
  const seenLast = useRef(-Infinity);
  const coarseness = (): Level => (took.current > LONG ? COARSEST : 1);
  // When playing stops, a coarse or outdated picture is replaced.
  useEffect(() => {
    if (playing.current) rested.current = "";
    if (playing.current || live || !sharp || drawn.current === sharp) return;
    const stop = new AbortController();
    const come = async (address: string, level: Level = 0) => {
      const answer = await get(address, { signal: stop.signal });
      if (answer.status === 204) return null;
      if (!answer.ok) throw await problemOf(answer);
      const blob = await answer.blob();
      if (stop.signal.aborted) return null;
      await show(blob, level, level ? url : address, stop.signal);
      return answer;
    };
    const { frame: now, size: seen, full: all, saved, feedsBack } = latest.current;
    const here = `${now} ${all.width}x${all.height}`;
    const kept = tried.current;
    let coarse = false;
    if (kept && saved?.(kept.body) && kept.body.frame === now) {
      coarse = kept.level > 0;
      const { width, height } = kept.body;
      if (!coarse && width === seen?.width && height === seen.height) drawn.current = url;
    }
    void (async () => {
      try {
        if (drawn.current !== url) {
          const coarsely = (level: Level) => come(level > 1 ? coarsest : half, level);
          const roughly = () => come(roughAt(coarsest), COARSEST);
          const far = Math.abs(now - seenLast.current) > 1;
          seenLast.current = now;
          const long = feedsBack ? far : took.current > AT_ONCE;
          const first = feedsBack ? roughly : () => coarsely(coarseness());
          if (long && !coarse && !(await first())) return;
          const began = performance.now();
          // One that takes long unexpectedly, as a jump does over many frames of feedback in an edit.
          const late = setTimeout(() => {
            // The sharp picture reports whatever fails.
            if (!long && !stop.signal.aborted) void roughly().catch(() => null);
          }, AT_ONCE);
          const answer = await come(url).finally(() => clearTimeout(late));
          if (!answer) return;
          took.current = performance.now() - began;
          told(answer);
        } else latest.current.onCame?.(seen ?? latest.current.full);
        if (sharp === url || rested.current === here) return;
        await rest(REST, stop.signal);
        const answer = await come(sharp);
        if (!answer) return;
        rested.current = here;
        told(answer);
      } catch (error) {
        if (stop.signal.aborted) return;
        setFault((error as Error).message);
        latest.current.onCame?.(latest.current.full);
      }
    })();
    function told(answer: Response) {
      const cost = costOf(answer);
      if (cost) latest.current.onCost?.(cost);
      const faults = answer.headers.get("X-Fault");
      latest.current.onFault?.(faults && decodeURIComponent(faults));
      const { size: now, full: all } = latest.current;
      latest.current.onCame?.(drawn.current === sharp ? all : (now ?? all));
    }
    return () => stop.abort();
  }, [url, half, coarsest, sharp, live, rolling, show]);

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
        const { path, body: asked } = waiting.current;
        const body = { ...asked, ...latest.current.size };
        waiting.current = null;
        const stop = new AbortController();
        try {
          if (took.current > AT_ONCE) {
            const level = coarseness();
            const coarse = await livePicture(path, { ...body, ...atLevel(body, level) });
            if (coarse && latest.current.live) {
              await show(await coarse.blob(), level);
              tried.current = { body, level };
            }
            if (waiting.current || !latest.current.live) continue;
            sharpening.current = stop;
          }
          const began = performance.now();
          const answer = await livePicture(path, body, stop.signal);
          took.current = performance.now() - began;
          if (answer && latest.current.live) {
            await show(await answer.blob());
            tried.current = { body, level: 0 };
            const cost = costOf(answer);
            if (cost) latest.current.onCost?.(cost);
          }
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
  const played = useMemo<Played>(
    () => ({
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
    }),
    [draw, message],
  );
  const play = useCallback(
    (speed = 1) => {
      const now = latest.current;
      let from = now.frame;
      if (speed > 0 && from >= now.end - 1) from = now.first;
      if (speed < 0 && from <= now.first) from = now.end - 1;
      player.current.play(from, played, speed);
    },
    [played],
  );
  // At rest, the frames from the playhead on.
  const film = urlOf(0, 0);
  useEffect(() => {
    if (!film || live || rolling) return;
    const current = player.current;
    const timer = setTimeout(() => void current.prepare(frame, played), LONG_REST);
    return () => {
      clearTimeout(timer);
      current.rest();
    };
  }, [film, frame, live, rolling, played]);
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
    <span ref={box} className="picture screen" style={{ aspectRatio: String(aspect) }}>
      <canvas ref={canvas} role="img" aria-label={label} data-testid="screen" />
      {fault && (
        <span className="fault" role="status" title={fault}>
          {fault}
        </span>
      )}
    </span>
  );
}

/** The address of a picture whose feedback steps see only the last few frames. */
const roughAt = (url: string) => url.replace(/(?=#|$)/, "&rough=true");

/** The height of an element in CSS pixels, without any enlargement; null until it is laid out. */
function useHeight(element: React.RefObject<HTMLElement | null>): number | null {
  const [height, setHeight] = useState<number | null>(null);
  useLayoutEffect(() => {
    const watched = element.current;
    if (!watched) return;
    setHeight(watched.clientHeight);
    const watch = new ResizeObserver(() => setHeight(watched.clientHeight));
    watch.observe(watched);
    return () => watch.disconnect();
  }, [element]);
  return height;
}

/** Waits, unless the work is given up. */
const rest = (milliseconds: number, signal: AbortSignal) =>
  new Promise<void>((done, giveUp) => {
    const timer = setTimeout(done, milliseconds);
    signal.addEventListener("abort", () => {
      clearTimeout(timer);
      giveUp(signal.reason as Error);
    });
  });
