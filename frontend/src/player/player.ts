/**
 * Plays frames from the server: it fetches them ahead of the playhead, keeps them, and draws them
 * in rhythm.
 *
 * Quality drops before rhythm does: if full frames do not come fast enough, smaller ones are
 * requested, and replaced in memory when there is time.
 */

import { COARSEST, type Level } from "./levels";

const AHEAD = 30;
const AT_ONCE = 2;
/** Bytes of the pictures in memory: 250 of them at 960×540, 60 at 1920×1080. */
const MOST_BYTES = 512 << 20;
const BYTES_A_PIXEL = 4;
/** Frames to have before playing starts, and the most milliseconds to wait for them. */
const START_WITH = 8;
const START_AFTER = 1200;
/** A frame that is already late is not requested; one this many frames ahead is. */
const SKIP = 4;
/** The assumed cost of a level against the one before, until it is measured. */
const CHEAPER = 0.4;
/** The share of the time between two frames within which a picture must come. */
const ROOM = 0.9;
/** Milliseconds between two checks of which frames are in memory: a film has thousands. */
const LOOK_EVERY = 400;
/** Marks a frame of a film: results between its steps need not be kept. */
const PASSING = { "X-Passing": "1" };

export interface PlayerState {
  playing: boolean;
  /** Frames a second that reach the screen. */
  rate: number;
  /** The level of the frame that was drawn last. */
  level: Level;
  /** The frames in memory, at any level. */
  ready: ReadonlySet<number>;
}

/** The clock of playback with sound: the pictures follow the sound. */
export interface Clock {
  /** Fetch the sound from a frame on; resolves to whether there is any. */
  ready: (frame: number) => boolean;
  start: (frame: number) => void;
  /** Seconds heard since the start; null without sound. */
  seconds: () => number | null;
  stop: () => void;
}

/** The source of playback. The player reads it at every frame, so that a change shows during
 * playback. */
export interface Played {
  readonly first: number;
  readonly end: number;
  readonly rate: number;
  readonly loop: boolean;
  readonly clock?: Clock | null;
  urlOf: (frame: number, level: Level) => string;
  draw: (picture: ImageBitmap, level: Level, url: string) => void;
  onFrame: (frame: number) => void;
  onState: (state: PlayerState) => void;
  onFault: (sentence: string) => void;
}

interface Kept {
  picture: ImageBitmap;
  level: Level;
}

const bytesOf = ({ picture }: Kept) => picture.width * picture.height * BYTES_A_PIXEL;

export class Player {
  /** By the address of the full frame. */
  private kept = new Map<string, Kept>();
  private bytes = 0;
  private fetching = new Map<string, AbortController>();
  private options: Played | null = null;
  private timer = 0;
  private speed = 1;
  private at = 0;
  private began = 0;
  private asked = 0;
  private from = 0;
  private drawn: number[] = [];
  private shown: Level = 0;
  private ready = new Set<number>();
  private looked = 0;
  /** Milliseconds between the arrivals of two frames, by level. */
  private pace: [number?, number?, number?] = [];
  private came = 0;

  /** Start, or change direction or speed, from a frame. */
  play(frame: number, options: Played, speed = 1): void {
    this.options = options;
    this.speed = speed;
    this.from = frame;
    this.at = frame;
    this.began = 0;
    this.asked = performance.now();
    this.came = this.asked;
    this.drawn = [];
    cancelAnimationFrame(this.timer);
    this.timer = requestAnimationFrame(this.tick);
    this.tell(true);
  }

  stop(): void {
    cancelAnimationFrame(this.timer);
    for (const stop of this.fetching.values()) stop.abort();
    this.fetching.clear();
    const before = this.options;
    before?.clock?.stop();
    if (before) this.tell(false);
    this.options = null;
  }

  forget(): void {
    this.stop();
    for (const name of this.kept.keys()) this.drop(name);
  }

  /** Bytes of the pictures in memory. */
  get held(): number {
    return this.bytes;
  }

  private drop(name: string): void {
    const old = this.kept.get(name);
    if (!old) return;
    this.bytes -= bytesOf(old);
    old.picture.close();
    this.kept.delete(name);
  }

  private keep(name: string, one: Kept): void {
    this.drop(name);
    this.bytes += bytesOf(one);
    this.kept.set(name, one);
    for (const oldest of this.kept.keys()) {
      if (this.bytes <= MOST_BYTES || oldest === name) break;
      this.drop(oldest);
    }
  }

  /** The number of pictures of the present size that fit into the memory. */
  private get room(): number {
    return Math.max(2, Math.floor((MOST_BYTES * this.kept.size) / Math.max(this.bytes, 1)));
  }

  private tick = (now: number): void => {
    const options = this.options;
    if (!options) return;
    const length = options.end - options.first;
    this.fetchAhead(options, length);
    if (!this.began) {
      // Wait for the first few frames, so that playing starts in rhythm and stays ahead.
      const first = this.kept.has(options.urlOf(this.from, 0));
      const enough = this.readyFrom(options, length) >= Math.min(START_WITH, length);
      const heard = this.clock(options)?.ready(this.from) ?? true;
      if (!first || ((!enough || !heard) && now - this.asked < START_AFTER)) {
        this.timer = requestAnimationFrame(this.tick);
        return;
      }
      this.begin(now, options);
    }
    const gone = Math.floor(this.seconds(now, options) * options.rate * Math.abs(this.speed));
    let frame = this.from + gone * Math.sign(this.speed);
    const past = this.speed > 0 ? frame >= options.end : frame < options.first;
    if (past) {
      if (!options.loop) {
        options.onFrame(this.speed > 0 ? options.end - 1 : options.first);
        this.stop();
        return;
      }
      frame = this.speed > 0 ? options.first : options.end - 1;
      this.from = frame;
      this.begin(now, options);
    }
    if (frame !== this.at || this.drawn.length === 0) {
      const found = this.kept.get(options.urlOf(frame, 0));
      if (found) {
        options.draw(found.picture, found.level, options.urlOf(frame, 0));
        this.shown = found.level;
        this.drawn.push(now);
        if (this.drawn.length > options.rate) this.drawn.shift();
      }
      this.at = frame;
      options.onFrame(frame);
      this.tell(true);
    }
    this.timer = requestAnimationFrame(this.tick);
  };

  /** Sound plays only at normal speed. */
  private clock(options: Played): Clock | null {
    return this.speed === 1 ? (options.clock ?? null) : null;
  }

  private begin(now: number, options: Played): void {
    this.began = now;
    options.clock?.stop();
    this.clock(options)?.start(this.from);
  }

  /** Seconds since playback began, by the sound where there is sound. */
  private seconds(now: number, options: Played): number {
    return this.clock(options)?.seconds() ?? (now - this.began) / 1000;
  }

  private tell(playing: boolean): void {
    const options = this.options;
    if (!options) return;
    const span = (this.drawn.at(-1) ?? 0) - (this.drawn[0] ?? 0);
    const rate = span > 0 ? ((this.drawn.length - 1) / span) * 1000 : 0;
    const now = performance.now();
    if (!playing || now - this.looked > LOOK_EVERY) {
      this.looked = now;
      this.ready = new Set();
      const current = new Set<string>();
      for (let frame = options.first; frame < options.end; frame += 1) {
        const name = options.urlOf(frame, 0);
        current.add(name);
        if (this.kept.has(name)) this.ready.add(frame);
      }
      // Pictures from before a change are not shown again.
      for (const name of this.kept.keys()) if (!current.has(name)) this.drop(name);
    }
    options.onState({ playing, rate, level: this.shown, ready: this.ready });
  }

  /** The sharpest level that comes in time; the coarsest if none does. */
  private level(options: Played): Level {
    const most = (1000 / (options.rate * Math.abs(this.speed))) * ROOM;
    let expected = this.pace[0] ?? 0;
    for (let level = 0; level < COARSEST; level += 1) {
      expected = this.pace[level] ?? expected * CHEAPER;
      if (expected <= most) return level as Level;
    }
    return COARSEST;
  }

  /** The frame a number of steps ahead of the playing one; null past an end that is not looped. */
  private frameAhead(options: Played, length: number, ahead: number): number | null {
    const frame = this.at + ahead * Math.sign(this.speed);
    if (frame < options.end && frame >= options.first) return frame;
    if (!options.loop) return null;
    return ((((frame - options.first) % length) + length) % length) + options.first;
  }

  /** The number of frames in a row in memory, from the playing one on. */
  private readyFrom(options: Played, length: number): number {
    for (let ahead = 0; ahead < Math.min(START_WITH, length); ahead += 1) {
      const frame = this.frameAhead(options, length, ahead);
      if (frame === null) return START_WITH;
      if (!this.kept.has(options.urlOf(frame, 0))) return ahead;
    }
    return START_WITH;
  }

  private fetchAhead(options: Played, length: number): void {
    const late = this.began > 0 && !this.kept.has(options.urlOf(this.at, 0));
    const level = this.level(options);
    const most = Math.min(AHEAD, length, this.kept.size ? this.room - AT_ONCE : AHEAD);
    for (let ahead = late ? SKIP : 0; ahead < most; ahead += 1) {
      if (this.fetching.size >= AT_ONCE) return;
      const frame = this.frameAhead(options, length, ahead);
      if (frame === null) break;
      const name = options.urlOf(frame, 0);
      if (!this.kept.has(name) && !this.fetching.has(name))
        void this.fetchOne(name, options.urlOf(frame, level), level, options);
    }
    if (this.fetching.size >= AT_ONCE || length > this.room) return;
    // Nothing is needed now: replace small pictures, furthest from the playhead first.
    for (let ahead = length - 1; ahead > SKIP; ahead -= 1) {
      const frame = this.frameAhead(options, length, ahead);
      if (frame === null) continue;
      const name = options.urlOf(frame, 0);
      const found = this.kept.get(name);
      if (!found?.level || this.fetching.has(name)) continue;
      void this.fetchOne(name, name, 0, options);
      return;
    }
  }

  private async fetchOne(name: string, url: string, level: Level, options: Played) {
    const stop = new AbortController();
    const busy = this.fetching.size > 0;
    this.fetching.set(name, stop);
    if (!busy) this.came = performance.now();
    try {
      const answer = await fetch(url, { signal: stop.signal, headers: PASSING });
      if (!answer.ok) throw new Error(((await answer.json()) as { detail: string }).detail);
      const picture = await createImageBitmap(await answer.blob());
      this.note(level);
      this.keep(name, { picture, level });
    } catch (error) {
      if (!stop.signal.aborted) {
        options.onFault((error as Error).message);
        this.stop();
      }
    } finally {
      if (this.fetching.get(name) === stop) this.fetching.delete(name);
    }
  }

  /** Note the time since the previous frame's arrival, as a running mean. */
  private note(level: Level): void {
    const now = performance.now();
    const took = now - this.came;
    this.came = now;
    const before = this.pace[level];
    this.pace[level] = before === undefined ? took : before + (took - before) * 0.25;
    // A sharper level may be fast enough by now: let its old time decay slowly.
    for (let other = 0; other < level; other += 1) {
      const told = this.pace[other];
      if (told !== undefined) this.pace[other] = told * 0.995;
    }
  }
}
