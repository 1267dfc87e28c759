import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Player, type Played, type PlayerState } from "./player";
import { aheadAt } from "./runs";

/** Pictures that count how many of them are open. */
const open = new Set<object>();
let now = 0;
let frames: FrameRequestCallback[] = [];
/** Requests that were sent, in order. */
let asked: string[] = [];
/** Milliseconds that the server takes for a picture of each size. */
let takes: (level: number) => number = () => 0;
/** Bytes of a picture. */
let size = 100;
/** Pictures that are on their way: when they arrive, and what happens then. */
let onTheWay: { at: number; arrive: () => void }[] = [];

beforeEach(() => {
  now = 0;
  frames = [];
  asked = [];
  onTheWay = [];
  takes = () => 0;
  size = 100;
  open.clear();
  vi.stubGlobal("performance", { now: () => now });
  vi.stubGlobal("requestAnimationFrame", (act: FrameRequestCallback) => frames.push(act));
  vi.stubGlobal("cancelAnimationFrame", () => (frames = []));
  vi.stubGlobal("fetch", async (url: string, { signal }: { signal: AbortSignal }) => {
    asked.push(url);
    return { ok: true, body: stream(url, signal) };
  });
  vi.stubGlobal("createImageBitmap", async () => {
    const picture = { close: () => open.delete(picture) };
    open.add(picture);
    return picture;
  });
});
afterEach(() => vi.unstubAllGlobals());

/** The server's answer to a run: pictures after their lengths, one after the other. */
function stream(url: string, signal: AbortSignal) {
  const count = Number(/count=(\d+)/.exec(url)?.[1]);
  const level = Number(url.split("/")[3]);
  return new ReadableStream<Uint8Array>({
    start(answer) {
      signal.addEventListener("abort", () => answer.error(new Error("given up")));
      for (let k = 0; k < count; k += 1)
        onTheWay.push({
          at: now + (k + 1) * takes(level),
          arrive: () => {
            if (signal.aborted) return;
            const part = new Uint8Array(4 + size);
            new DataView(part.buffer).setUint32(0, size);
            answer.enqueue(part);
            if (k + 1 === count) answer.close();
          },
        });
    },
  });
}

/** Lets time pass, as the screen asks for frames. */
async function pass(milliseconds: number, step = 10) {
  for (const end = now + milliseconds; now < end; now += step) {
    const due = frames;
    frames = [];
    for (const act of due) act(now);
    const [there, later] = [[], []] as (typeof onTheWay)[];
    for (const one of onTheWay) (one.at <= now ? there : later)!.push(one);
    onTheWay = later!;
    for (const { arrive } of there!) arrive();
    // What has arrived is taken before the next frame of the screen.
    await new Promise((done) => setImmediate(done));
  }
}

interface Drawn {
  url: string;
  level: number;
}

function setUp(revision: { now: number }, length: number, loop = true) {
  const drawn: Drawn[] = [];
  const player = new Player();
  let state: PlayerState | undefined;
  const options: Played = {
    first: 0,
    end: length,
    rate: 25,
    loop,
    urlOf: (at, level) => `/${revision.now}/frames/${level}/frame.jpg?frame=${at}`,
    draw: (_, level, url) => drawn.push({ url, level }),
    onFrame: () => undefined,
    onState: (next) => (state = next),
    onFault: (sentence) => {
      throw new Error(sentence);
    },
  };
  return { player, options, drawn, state: () => state };
}

function playing(revision: { now: number }, length: number, loop = true) {
  const found = setUp(revision, length, loop);
  found.player.play(0, found.options);
  return found;
}

const frameOf = ({ url }: Drawn) => Number(/frame=(\d+)/.exec(url)![1]);

describe("the player", () => {
  it("keeps bytes, and decodes only what is shown next", async () => {
    size = 2 << 20;
    const { player, state } = playing({ now: 1 }, 300);
    await pass(12_000);
    expect(state()?.playing).toBe(true);
    expect(player.held).toBeLessThanOrEqual(256 << 20);
    expect(player.held).toBeGreaterThan(240 << 20);
    expect(open.size).toBeLessThanOrEqual(7);
    player.forget();
    expect([player.held, open.size]).toEqual([0, 0]);
  });

  it("asks for runs of frames, and for each frame once", async () => {
    const { player, drawn } = playing({ now: 1 }, 48);
    await pass(4000);
    expect(asked).toHaveLength(4);
    expect(asked[0]).toBe("/1/frames/0/frames?frame=0&count=12&by=1&keep=true");
    expect(drawn.slice(0, 48).map(frameOf)).toEqual([...Array(48).keys()]);
    player.forget();
  });

  it("shows a change while it plays, and lets go of what was there before", async () => {
    const revision = { now: 1 };
    const { player, drawn } = playing(revision, 20);
    await pass(3000);
    expect(new Set(drawn.map(({ url }) => url.split("/")[1]))).toEqual(new Set(["1"]));
    revision.now = 2;
    await pass(3000);
    const later = drawn.map(({ url }) => url.split("/")[1]);
    expect(later.slice(later.indexOf("2"))).not.toContain("1");
    expect(player.held).toBe(20 * size);
    player.forget();
  });

  it("asks for smaller pictures when full ones come too slowly, and makes them good later", async () => {
    takes = (level) => (level ? 25 : 120);
    const { player, drawn } = playing({ now: 1 }, 100);
    await pass(8000);
    expect(drawn.filter(({ level }) => level === 1).length).toBeGreaterThan(40);
    // In the second round 4 of 5 frames are there, at half size at least.
    takes = () => 5;
    await pass(8000);
    expect(new Set(drawn.slice(-100).map(({ level }) => level))).toEqual(new Set([0]));
    player.forget();
  });

  it("keeps full size through a slow stretch that the frames ahead cover", async () => {
    takes = () => 10;
    const { player, drawn } = playing({ now: 1 }, 400, false);
    await pass(3000);
    takes = () => 80;
    await pass(700);
    takes = () => 10;
    await pass(14_000);
    expect(drawn).toHaveLength(400);
    expect(drawn.every(({ level }) => level === 0)).toBe(true);
    player.forget();
  });

  it("plays backwards, in runs that go backwards", async () => {
    const { player, options, drawn } = setUp({ now: 1 }, 24, false);
    player.play(23, options, -1);
    await pass(3000);
    expect(asked[0]).toContain("frame=23&count=12&by=-1");
    expect(drawn.map(frameOf)).toEqual([...Array(24).keys()].reverse());
    player.forget();
  });

  it("has frames computed at rest, tells which are ready, and gives it up for playing", async () => {
    const { player, options, state } = setUp({ now: 1 }, 40);
    const numbers = new TransformStream<Uint8Array, Uint8Array>();
    const server = numbers.writable.getWriter();
    const tells = async (...ready: number[]) => {
      const bytes = new Uint8Array(4 * ready.length);
      ready.forEach((frame, k) => new DataView(bytes.buffer).setUint32(4 * k, frame));
      await server.write(bytes);
      await pass(1000);
    };
    let given = false;
    vi.stubGlobal("fetch", async (url: string, { signal }: { signal: AbortSignal }) => {
      asked.push(url);
      signal.addEventListener("abort", () => (given = true));
      return { ok: true, body: numbers.readable };
    });
    void player.prepare(20, options);
    await tells(0, 1);
    expect(asked).toEqual([aheadAt(options.urlOf(20, 0))]);
    await tells(20);
    await tells(21);
    expect([...state()!.ready]).toEqual([0, 1, 20, 21]);
    player.play(20, options);
    expect(given).toBe(true);
    player.forget();
  });

  it("plays at full size what is on the server's disk, however busy the machine is", async () => {
    const { player, options, drawn } = setUp({ now: 1 }, 60, false);
    const usual = fetch;
    vi.stubGlobal("fetch", async () => {
      const bytes = new Uint8Array(4 * 30);
      for (let frame = 0; frame < 30; frame += 1)
        new DataView(bytes.buffer).setUint32(4 * frame, frame);
      return { ok: true, body: new Blob([bytes]).stream() };
    });
    await player.prepare(0, options);
    vi.stubGlobal("fetch", usual);
    takes = () => 90;
    player.play(0, options);
    await pass(6000);
    const sizes = (from: number, end: number) =>
      new Set(
        drawn.filter((one) => frameOf(one) >= from && frameOf(one) < end).map(({ level }) => level),
      );
    expect(sizes(0, 30)).toEqual(new Set([0]));
    expect(sizes(48, 60)).not.toContain(0);
    player.forget();
  });
});
