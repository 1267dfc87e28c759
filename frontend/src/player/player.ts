/**
 * Plays frames from the server: it fetches them in runs ahead of the playhead, keeps their bytes,
 * and decodes and draws them in rhythm.
 *
 * Quality drops before rhythm does: if full frames do not come fast enough, smaller ones are
 * requested, and replaced when there is time. At rest it has the server compute the frames from the
 * playhead on, and keep them on its disk.
 */

import { COARSEST, type Level } from "./levels";
import { readNumbers } from "../api/chunks";
import { aheadAt, readRun, runAt } from "./runs";

/** Frames of one run. */
const RUN = 12;
/** Frames that are fetched ahead of the playing one. */
const AHEAD = 75;
/** A run begins when so many pictures of the one before have not come yet. */
const OVERLAP = 2;
/** Bytes of the encoded pictures in memory. */
const MOST_BYTES = 256 << 20;
/** Frames that are decoded ahead of the playing one: a picture takes a few milliseconds. */
const DECODED = 6;
/** Frames to have before playing starts, and the most milliseconds to wait for them. */
const START_WITH = 8;
const START_AFTER = 1200;
/** A frame that is already late is not requested; one this many frames ahead is. */
const SKIP = 4;
/** The assumed cost of a level against the one before, until it is measured. */
const CHEAPER = 0.4;
/** The share of the time between two frames within which a picture must come. */
const ROOM = 0.9;
/** With fewer frames than this ahead, a run that is too slow is given up for a smaller one. */
const SHORT = 5;
/** The weight of the newest arrival in the running mean of the time between two. */
const NEWEST = 0.3;
/** How much a time that was too long is believed less, with each picture of a smaller level. */
const FADING = 0.98;
/** Seconds by which a picture is drawn before it is heard: the screen shows it at its next refresh. */
const LEAD = 0.01;
/** Milliseconds between two reports of which frames are in memory: a film has thousands. */
const TELL_EVERY = 400;

export interface PlayerState {
  playing: boolean;
  /** Frames a second that reach the screen. */
  rate: number;
  /** The level of the frame that was drawn last. */
  level: Level;
  /** The frames that are ready at full size, here or on the server's disk. */
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
  bytes: Blob;
  level: Level;
}

interface Decoded {
  /** The bytes that it shows. */
  of: Kept;
  /** Null while it is being decoded. */
  picture: ImageBitmap | null;
}

/** A run that is under way. */
interface Fetching {
  stop: AbortController;
  level: Level;
  /** Whether its pictures are on the server's disk: smaller ones would not come sooner. */
  stored: boolean;
  /** The frames that have not come yet, in order. */
  left: number[];
  /** The time of its last arrival, or of its request. */
  came: number;
}

export class Player {
  /** What the pictures in memory show; another address of the first frame is another film. */
  private film = "";
  private kept = new Map<number, Kept>();
  private bytes = 0;
  private decoded = new Map<number, Decoded>();
  private fetching = new Set<Fetching>();
  private options: Played | null = null;
  private resting: AbortController | null = null;
  private timer = 0;
  private speed = 1;
  private at = 0;
  private began = 0;
  private asked = 0;
  private from = 0;
  private undrawn = true;
  private drawn: number[] = [];
  private shown: Level = 0;
  /** Frames on the server's disk. */
  private stored = new Set<number>();
  private ready: ReadonlySet<number> = new Set();
  private told = -Infinity;
  /** Milliseconds between the arrivals of two frames, by level. */
  private pace: [number?, number?, number?] = [];

  /** Start, or change direction or speed, from a frame. */
  play(frame: number, options: Played, speed = 1): void {
    this.rest();
    this.options = options;
    this.speed = speed;
    this.from = frame;
    this.at = frame;
    this.began = 0;
    this.asked = performance.now();
    this.undrawn = true;
    this.drawn = [];
    cancelAnimationFrame(this.timer);
    this.timer = requestAnimationFrame(this.tick);
    this.tell(true);
  }

  stop(): void {
    cancelAnimationFrame(this.timer);
    this.giveUp();
    for (const frame of [...this.decoded.keys()]) this.dropPicture(frame);
    const before = this.options;
    before?.clock?.stop();
    if (before) this.tell(false);
    this.options = null;
  }

  forget(): void {
    this.rest();
    this.stop();
    this.clear();
  }

  /**
   * While nothing is waited for, have the server compute the frames from one on, then those before
   * it; it tells which are ready.
   */
  async prepare(frame: number, options: Played): Promise<void> {
    if (this.options) return;
    this.rest();
    const stop = (this.resting = new AbortController());
    this.same(options);
    const stored = new Set<number>();
    try {
      const answer = await fetch(aheadAt(options.urlOf(frame, 0)), { signal: stop.signal });
      if (!answer.ok || !answer.body) return;
      await readNumbers(answer.body, (ready) => {
        if (stop.signal.aborted) return;
        stored.add(ready);
        this.stored.add(ready);
        if (this.kept.get(ready)?.level) this.drop(ready);
        if (performance.now() - this.told > TELL_EVERY) this.tell(false, options);
      });
    } catch {
      return; // without it, the line shows less
    }
    if (stop.signal.aborted) return;
    this.stored = stored;
    this.tell(false, options);
  }

  /** Have no frames computed any more that nobody waits for. */
  rest(): void {
    this.resting?.abort();
    this.resting = null;
  }

  /** Bytes of the encoded pictures in memory. */
  get held(): number {
    return this.bytes;
  }

  /** Drop what is in memory if it shows another film: pictures of two revisions never mix. */
  private same(options: Played): void {
    const film = options.urlOf(0, 0);
    if (film === this.film) return;
    this.clear();
    this.film = film;
  }

  private clear(): void {
    this.giveUp();
    for (const frame of [...this.decoded.keys()]) this.dropPicture(frame);
    this.kept.clear();
    this.bytes = 0;
    this.stored = new Set();
    this.told = -Infinity;
  }

  private giveUp(): void {
    for (const run of this.fetching) run.stop.abort();
    this.fetching.clear();
  }

  private dropPicture(frame: number): void {
    this.decoded.get(frame)?.picture?.close();
    this.decoded.delete(frame);
  }

  private keep(frame: number, one: Kept): void {
    const old = this.kept.get(frame);
    if (old && old.level < one.level) return;
    this.drop(frame);
    this.bytes += one.bytes.size;
    this.kept.set(frame, one);
    for (const oldest of this.kept.keys()) {
      if (this.bytes <= MOST_BYTES || oldest === frame) break;
      this.drop(oldest);
    }
  }

  private drop(frame: number): void {
    this.bytes -= this.kept.get(frame)?.bytes.size ?? 0;
    this.kept.delete(frame);
  }

  private tick = (now: number): void => {
    const options = this.options;
    if (!options) return;
    this.same(options);
    const length = options.end - options.first;
    this.fetchAhead(options, length, now);
    this.decodeAhead(options, length);
    if (!this.began) {
      // Wait for the first few frames, so that playing starts in rhythm and stays ahead.
      const first = this.decoded.get(this.from)?.picture;
      const enough = this.readyAhead(options, length, START_WITH) >= Math.min(START_WITH, length);
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
    const moved = frame !== this.at;
    if (moved) {
      this.at = frame;
      this.undrawn = true;
      options.onFrame(frame);
    }
    const found = this.undrawn ? this.decoded.get(frame) : undefined;
    if (found?.picture) {
      options.draw(found.picture, found.of.level, options.urlOf(frame, 0));
      this.undrawn = false;
      this.shown = found.of.level;
      this.drawn.push(now);
      if (this.drawn.length > options.rate) this.drawn.shift();
    }
    if (moved) this.tell(true);
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
    const heard = this.clock(options)?.seconds() ?? null;
    return heard === null ? (now - this.began) / 1000 : heard + LEAD;
  }

  private tell(playing: boolean, options = this.options): void {
    if (!options) return;
    const span = (this.drawn.at(-1) ?? 0) - (this.drawn[0] ?? 0);
    const rate = span > 0 ? ((this.drawn.length - 1) / span) * 1000 : 0;
    const now = performance.now();
    if (!playing || now - this.told > TELL_EVERY) {
      this.told = now;
      const ready = new Set(this.stored);
      for (const [frame, { level }] of this.kept) if (!level) ready.add(frame);
      this.ready = ready;
    }
    options.onState({ playing, rate, level: this.shown, ready: this.ready });
  }

  /** Milliseconds between two frames of the film, at this speed. */
  private each(options: Played): number {
    return 1000 / (options.rate * Math.abs(this.speed));
  }

  /**
   * The sharpest level that comes in time, or that the frames in memory leave time for.
   *
   * @param ahead The number of frames in memory from the playing one on.
   */
  private level(options: Played, ahead: number): Level {
    const each = this.each(options);
    let expected = this.pace[0] ?? 0;
    for (let level = 0; level < COARSEST; level += 1) {
      expected = this.pace[level] ?? expected * CHEAPER;
      const lost = (expected - each) * RUN;
      if (expected <= each * ROOM || (this.began && lost < (ahead - SHORT) * each))
        return level as Level;
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

  /** The number of frames in a row in memory, from the playing one on; at most a number. */
  private readyAhead(options: Played, length: number, most: number): number {
    for (let ahead = 0; ahead < Math.min(most, length); ahead += 1) {
      const frame = this.frameAhead(options, length, ahead);
      if (frame === null) return most;
      if (!this.kept.has(frame)) return ahead;
    }
    return most;
  }

  private decodeAhead(options: Played, length: number): void {
    const wanted = new Set<number>();
    for (let ahead = 0; ahead < Math.min(DECODED, length); ahead += 1) {
      const frame = this.frameAhead(options, length, ahead);
      if (frame !== null) wanted.add(frame);
    }
    for (const frame of [...this.decoded.keys()]) if (!wanted.has(frame)) this.dropPicture(frame);
    for (const frame of wanted) {
      const of = this.kept.get(frame);
      const held = this.decoded.get(frame);
      if (!of || held?.of === of || (held && !held.picture)) continue;
      void this.decode(frame, of, held);
    }
  }

  private async decode(frame: number, of: Kept, before: Decoded | undefined): Promise<void> {
    const one: Decoded = { of, picture: null };
    // A coarse picture stays until the sharp one is decoded.
    if (!before) this.decoded.set(frame, one);
    const picture = await createImageBitmap(of.bytes);
    if (this.decoded.get(frame) !== (before ?? one)) {
      picture.close();
      return;
    }
    before?.picture?.close();
    this.decoded.set(frame, { of, picture });
  }

  /** Frames that are being fetched. */
  private get coming(): Set<number> {
    return new Set([...this.fetching].flatMap((run) => run.left));
  }

  private fetchAhead(options: Played, length: number, now: number): void {
    const ahead = this.readyAhead(options, length, AHEAD);
    const each = this.each(options);
    for (const run of this.fetching) {
      // A run that comes too slowly, or too late, makes room for a smaller one.
      const spent = Math.max(this.pace[run.level] ?? 0, now - run.came);
      const slow = ahead < SHORT && spent > each * 1.5 && run.level < COARSEST;
      if (this.began && slow && !run.stored) {
        this.pace[run.level] = spent;
        run.stop.abort();
        this.fetching.delete(run);
      }
    }
    const left = [...this.fetching].reduce((sum, run) => sum + run.left.length, 0);
    if (left > OVERLAP) return;
    const coming = this.coming;
    const late = this.began > 0 && !this.kept.has(this.at);
    const most = Math.min(AHEAD, length);
    const missing = (frame: number) => !this.kept.has(frame) && !coming.has(frame);
    const level = this.level(options, ahead);
    if (this.fetchFrom(options, length, late ? SKIP : 0, most, missing, level)) return;
    // Nothing is needed now: replace small pictures, the nearest ones that are not played at once.
    const small = (frame: number) => !!this.kept.get(frame)?.level && !coming.has(frame);
    this.fetchFrom(options, length, RUN, length, small, 0);
  }

  /** Fetch the next run of frames that are wanted; whether there are any. */
  private fetchFrom(
    options: Played,
    length: number,
    first: number,
    end: number,
    wanted: (frame: number) => boolean,
    level: Level,
  ): boolean {
    const by = this.speed < 0 ? -1 : 1;
    const frames: number[] = [];
    for (let ahead = first; ahead < end && frames.length < RUN; ahead += 1) {
      const frame = this.frameAhead(options, length, ahead);
      if (frame === null) break;
      const goesOn =
        frames.length === 0 ||
        (frame === frames.at(-1)! + by && this.stored.has(frame) === this.stored.has(frames[0]!));
      if (wanted(frame) && goesOn) frames.push(frame);
      else if (frames.length) break;
    }
    if (!frames.length) return false;
    const stored = this.stored.has(frames[0]!);
    void this.fetchRun(options, frames, by, stored ? 0 : level, stored);
    return true;
  }

  /** Fetch neighbouring frames in one answer. */
  private async fetchRun(
    options: Played,
    frames: number[],
    by: 1 | -1,
    level: Level,
    stored: boolean,
  ): Promise<void> {
    const run: Fetching = {
      stop: new AbortController(),
      level,
      stored,
      left: [...frames],
      came: performance.now(),
    };
    this.fetching.add(run);
    const film = this.film;
    const address = runAt(options.urlOf(frames[0]!, level), {
      count: frames.length,
      by,
      keep: level === 0,
    });
    try {
      const answer = await fetch(address, { signal: run.stop.signal });
      if (!answer.ok || !answer.body)
        throw new Error(((await answer.json()) as { detail: string }).detail);
      await readRun(answer.body, (bytes) => {
        const frame = run.left.shift();
        if (frame === undefined || film !== this.film || run.stop.signal.aborted) return;
        this.time(run);
        this.keep(frame, { bytes, level });
      });
    } catch (error) {
      if (!run.stop.signal.aborted) {
        options.onFault((error as Error).message);
        this.stop();
      }
    } finally {
      this.fetching.delete(run);
    }
  }

  /** Note the time since the arrival before, as a running mean. */
  private time(run: Fetching): void {
    const now = performance.now();
    const took = now - run.came;
    run.came = now;
    if (run.stored) return; // it tells nothing about what computing takes
    const before = this.pace[run.level];
    this.pace[run.level] = before === undefined ? took : before + (took - before) * NEWEST;
    for (let other = 0; other < run.level; other += 1) {
      const told = this.pace[other];
      if (told !== undefined) this.pace[other] = told * FADING;
    }
  }
}
