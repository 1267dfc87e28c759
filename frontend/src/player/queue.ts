/** Small pictures are fetched this many at a time; a browser holds six connections to one server. */
const AT_ONCE = 3;

/** Whose turn comes first: what is worked on; other pictures; what might be done. */
export const TURNS = { first: 0, shown: 1, offered: 2 } as const;
export type Turn = keyof typeof TURNS;

interface Waiting {
  rank: number;
  begin: () => void;
}

const waiting: Waiting[] = [];
let busy = 0;

function next(): void {
  if (busy >= AT_ONCE || !waiting.length) return;
  const first = waiting.reduce((one, other) => (other.rank < one.rank ? other : one));
  waiting.splice(waiting.indexOf(first), 1);
  busy++;
  first.begin();
}

/**
 * Does work when its turn comes, in the order asked for within a turn, a few at a time, so that
 * what the monitor asks for never waits behind a page full of small pictures. What is no longer
 * wanted when its turn comes is not begun.
 */
export async function inLine<T>(
  turn: Turn,
  signal: AbortSignal,
  work: () => Promise<T>,
): Promise<T> {
  await new Promise<void>((begin) => {
    waiting.push({ rank: TURNS[turn], begin });
    next();
  });
  try {
    signal.throwIfAborted();
    return await work();
  } finally {
    busy--;
    next();
  }
}
