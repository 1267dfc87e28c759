/** The most small pictures that are fetched at a time; a browser has six connections to one server.
 * */
const AT_ONCE = 3;

/** The order of pictures: work in progress; other pictures; possible changes. */
export const TURNS = { first: 0, shown: 1, offered: 2 } as const;
export type Turn = keyof typeof TURNS;

/** Milliseconds between two pictures that begin during scrolling: each one costs the page about 7
 * ms. */
const APART = 60;
/** Milliseconds without a scroll event that end scrolling. */
const REST = 100;

interface Waiting {
  rank: number;
  signal: AbortSignal;
  begin: () => void;
}

let waiting: Waiting[] = [];
let busy = 0;
let scrolled = -Infinity;
let begun = -Infinity;
let later: ReturnType<typeof setTimeout> | undefined;

globalThis.addEventListener?.("scroll", () => (scrolled = performance.now()), {
  capture: true,
  passive: true,
});

function next(): void {
  waiting = waiting.filter((one) => !one.signal.aborted);
  if (busy >= AT_ONCE || !waiting.length) return;
  const now = performance.now();
  const pause = now - scrolled < REST ? begun + APART - now : 0;
  clearTimeout(later);
  if (pause > 0) {
    later = setTimeout(next, pause);
    return;
  }
  const first = waiting.reduce((one, other) => (other.rank < one.rank ? other : one));
  waiting.splice(waiting.indexOf(first), 1);
  busy++;
  begun = now;
  first.begin();
}

/**
 * Does work when its turn comes, in order of request within a turn, a few at a time, so that the
 * monitor's picture never waits behind a page full of small ones. Work that is given up
 * before its turn never begins.
 */
export async function inLine<T>(
  turn: Turn,
  signal: AbortSignal,
  work: () => Promise<T>,
): Promise<T> {
  await new Promise<void>((begin, giveUp) => {
    signal.addEventListener("abort", () => giveUp(signal.reason as Error), { once: true });
    waiting.push({ rank: TURNS[turn], signal, begin });
    next();
  });
  try {
    return await work();
  } finally {
    busy--;
    next();
  }
}
