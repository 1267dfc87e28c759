import { useEffect, useState } from "react";
import type { ReelView } from "../api/client";
import { query } from "../api/client";
import type { Clock } from "../player/player";

/** Seconds of sound that are fetched at once. */
const PIECE = 4;
/** Pieces that are ready before they are heard. */
const AHEAD = 2;
/** Seconds to wait for a sound device whose clock stands still. */
const STUCK = 0.7;

/** Plays the sound of one revision of an edit, piece by piece, by the clock of the sound card. */
export class SoundClock implements Clock {
  private context: AudioContext | null = null;
  private gain: GainNode | null = null;
  private pieces = new Map<number, Promise<AudioBuffer | null>>();
  private held = new Map<number, AudioBuffer>();
  private playing: AudioBufferSourceNode[] = [];
  private began = 0;
  private asked = 0;
  private from = 0;
  private next = 0;
  private base = "";
  private each = 100;
  rate = 25;
  length = 0;
  muted = false;

  /** Set the edit to hear from now on. */
  open(base: string, rate: number, length: number) {
    if (base === this.base) return;
    this.stop();
    this.base = base;
    this.rate = rate;
    this.length = length;
    this.each = Math.max(1, Math.round(PIECE * rate));
    this.pieces.clear();
    this.held.clear();
  }

  mute(muted: boolean) {
    this.muted = muted;
    if (this.gain) this.gain.gain.value = muted ? 0 : 1;
  }

  /** Fetch the sound from a frame on; resolves to whether there is any. */
  ready(frame: number): boolean {
    const first = Math.floor(frame / this.each);
    void this.piece(first);
    if ((first + 1) * this.each < this.length) void this.piece(first + 1);
    return this.held.has(first);
  }

  start(frame: number) {
    this.stop();
    const context = (this.context ??= new AudioContext({ sampleRate: 48_000 }));
    if (!this.gain) {
      this.gain = context.createGain();
      this.gain.connect(context.destination);
      this.mute(this.muted);
    }
    void context.resume();
    this.began = context.currentTime + 0.06;
    this.asked = performance.now();
    this.from = frame;
    this.next = Math.floor(frame / this.each);
    this.schedule();
  }

  /** Seconds heard since the start; null without sound. */
  seconds(): number | null {
    const { context } = this;
    if (!context || !this.asked) return null;
    this.schedule();
    const heard = context.currentTime - this.began - (context.outputLatency || 0);
    // Without a sound card its clock may stand still: the pictures then use their own clock.
    if (heard <= 0 && performance.now() - this.asked > STUCK * 1000) return null;
    return Math.max(0, heard);
  }

  stop() {
    for (const source of this.playing) source.stop();
    this.playing = [];
    this.asked = 0;
  }

  private schedule() {
    const { context, gain } = this;
    if (!context || !gain) return;
    const now = this.from + (context.currentTime - this.began) * this.rate;
    while (this.next * this.each < Math.min(this.length, now + AHEAD * this.each)) {
      const buffer = this.held.get(this.next);
      if (!buffer) {
        void this.piece(this.next);
        return;
      }
      const first = this.next * this.each;
      const when = this.began + (first - this.from) / this.rate;
      const source = context.createBufferSource();
      source.buffer = buffer;
      source.connect(gain);
      const late = Math.max(0, context.currentTime - when);
      if (late < buffer.duration) source.start(Math.max(when, context.currentTime), late);
      this.playing.push(source);
      source.onended = () => (this.playing = this.playing.filter((one) => one !== source));
      this.next += 1;
    }
  }

  private piece(number: number): Promise<AudioBuffer | null> {
    const known = this.pieces.get(number);
    if (known) return known;
    const { base } = this;
    const come = async () => {
      const frames = { frame: number * this.each, frames: this.each };
      const answer = await fetch(`${base}/sound.wav?${query(frames)}`);
      if (!answer.ok) return null;
      const context = (this.context ??= new AudioContext({ sampleRate: 48_000 }));
      const buffer = await context.decodeAudioData(await answer.arrayBuffer());
      if (base === this.base) this.held.set(number, buffer);
      return buffer;
    };
    const coming = come().catch(() => null);
    this.pieces.set(number, coming);
    return coming;
  }
}

export interface Sound {
  has: boolean;
  muted: boolean;
  toggle: () => void;
  clock: Clock | null;
}

/** The sound of the current edit. */
export function useSound(view: ReelView, rate: number): Sound {
  const [current] = useState(() => new SoundClock());
  const [muted, setMuted] = useState(false);
  const has = [...view.shots, ...view.items.flatMap((item) => item.source ?? [])].some(
    (one) => one.sound && !one.mute,
  );
  useEffect(
    () => current.open(`/api/reels/${view.id}/${view.revision}`, rate, view.length),
    [current, view.id, view.revision, view.length, rate],
  );
  useEffect(() => () => current.stop(), [current]);
  return {
    has,
    muted,
    toggle: () => {
      current.mute(!muted);
      setMuted(!muted);
    },
    clock: has ? current : null,
  };
}
