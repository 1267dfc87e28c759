import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Player, type PlayerState } from "./player";

/** Pictures that count how many of them are open. */
const open = new Set<object>();
let now = 0;
let frames: FrameRequestCallback[] = [];

beforeEach(() => {
  now = 0;
  frames = [];
  open.clear();
  vi.stubGlobal("performance", { now: () => now });
  vi.stubGlobal("requestAnimationFrame", (act: FrameRequestCallback) => frames.push(act));
  vi.stubGlobal("cancelAnimationFrame", () => (frames = []));
  vi.stubGlobal("fetch", async () => ({ ok: true, blob: async () => ({}) }));
  vi.stubGlobal("createImageBitmap", async () => {
    const picture = { width: 1920, height: 1080, close: () => open.delete(picture) };
    open.add(picture);
    return picture;
  });
});
afterEach(() => vi.unstubAllGlobals());

/** Lets time pass, as the screen asks for frames. */
async function pass(milliseconds: number, step = 10) {
  for (const end = now + milliseconds; now < end; now += step) {
    const due = frames;
    frames = [];
    for (const act of due) act(now);
    // Fetched pictures arrive before the next frame of the screen.
    for (let k = 0; k < 6; k += 1) await Promise.resolve();
  }
}

function playing(revision: { now: number }, length: number) {
  const drawn: string[] = [];
  const player = new Player();
  let state: PlayerState | undefined;
  player.play(0, {
    first: 0,
    end: length,
    rate: 25,
    loop: true,
    urlOf: (at, level) => `/${revision.now}/${at}/${level}`,
    draw: (_, __, url) => drawn.push(url),
    onFrame: () => undefined,
    onState: (next) => (state = next),
    onFault: (sentence) => {
      throw new Error(sentence);
    },
  });
  return { player, drawn, state: () => state };
}

const MIB = 1 << 20;

describe("the player", () => {
  it("holds bytes, however many frames there are", async () => {
    const { player, state } = playing({ now: 1 }, 400);
    await pass(12_000);
    expect(state()?.playing).toBe(true);
    expect(player.held).toBeLessThanOrEqual(512 * MIB);
    expect(player.held).toBeGreaterThan(400 * MIB);
    expect(open.size * 1920 * 1080 * 4).toBe(player.held);
    player.forget();
    expect([player.held, open.size]).toEqual([0, 0]);
  });

  it("shows a change while it plays, and lets go of what was there before", async () => {
    const revision = { now: 1 };
    const { player, drawn } = playing(revision, 20);
    await pass(3000);
    expect(new Set(drawn.map((url) => url.split("/")[1]))).toEqual(new Set(["1"]));
    revision.now = 2;
    await pass(3000);
    expect(drawn.at(-1)).toMatch(/^\/2\//);
    expect(open.size).toBe(20);
    player.forget();
  });
});
