/** The order of small pictures and figures, and how several come in one answer. */

import { get } from "./get";
import { readChunks } from "./chunks";

/** The most requests for them at a time; a browser has six connections to one server. */
const AT_ONCE = 3;
/** The most answers in one request, and while the page is scrolled. */
const TOGETHER = 8;
const SCROLLING = 2;

/** The order: what is worked on; other pictures; figures; possible changes. */
export const TURNS = { first: 0, shown: 1, figures: 2, offered: 3 } as const;
export type Turn = keyof typeof TURNS;

/** Milliseconds between two requests that begin during scrolling: each picture costs the page about
 * 7 ms. */
const APART = 120;
/** Milliseconds without a scroll event that end scrolling. */
const REST = 100;

interface Waiting {
  address: string;
  rank: number;
  signal: AbortSignal;
  come: (answer: Response) => void;
  fail: (fault: Error) => void;
}

let waiting: Waiting[] = [];
let busy = 0;
let scrolled = -Infinity;
let begun = -Infinity;
let later: ReturnType<typeof setTimeout> | undefined;
let asked = false;

globalThis.addEventListener?.("scroll", () => (scrolled = performance.now()), {
  capture: true,
  passive: true,
});

function next(): void {
  asked = false;
  waiting = waiting.filter((one) => !one.signal.aborted);
  if (busy >= AT_ONCE || !waiting.length) return;
  const now = performance.now();
  const scrolling = now - scrolled < REST;
  const pause = scrolling ? begun + APART - now : 0;
  clearTimeout(later);
  if (pause > 0) {
    later = setTimeout(next, pause);
    return;
  }
  const ordered = [...waiting].sort((one, other) => one.rank - other.rank);
  // A possible change takes long and may be given up, so it comes alone.
  const shown = ordered.filter((one) => one.rank < TURNS.offered);
  const taken = shown.length
    ? shown.slice(0, scrolling ? SCROLLING : TOGETHER)
    : ordered.slice(0, 1);
  waiting = waiting.filter((one) => !taken.includes(one));
  busy += 1;
  begun = now;
  void (taken.length === 1 ? alone(taken[0]!) : together(taken)).finally(() => {
    busy -= 1;
    next();
  });
  next();
}

async function alone({ address, signal, come, fail }: Waiting): Promise<void> {
  try {
    come(await get(address, { signal }));
  } catch (fault) {
    fail(fault as Error);
  }
}

/** Request several addresses at once. It is given up when nobody wants any of them. */
async function together(all: readonly Waiting[]): Promise<void> {
  const stop = new AbortController();
  const left = [...all];
  const leave = () => all.every(({ signal }) => signal.aborted) && stop.abort();
  for (const { signal } of all) signal.addEventListener("abort", leave);
  try {
    const answer = await fetch("/api/together", {
      method: "POST",
      body: JSON.stringify({ paths: all.map(({ address }) => address) }),
      headers: { "Content-Type": "application/json" },
      signal: stop.signal,
    });
    if (!answer.ok || !answer.body) {
      for (const one of left.splice(0)) one.come(answer.clone());
      return;
    }
    let head: { status: number; type: string } | null = null;
    await readChunks(answer.body, (chunk) => {
      if (!head) {
        head = JSON.parse(new TextDecoder().decode(chunk)) as { status: number; type: string };
        return;
      }
      const { status, type } = head;
      head = null;
      const body = status === 204 || status === 304 ? null : chunk;
      left.shift()?.come(new Response(body, { status, headers: { "Content-Type": type } }));
    });
    for (const one of left.splice(0)) one.fail(new Error("The answer was cut off. Try again."));
  } catch (fault) {
    for (const one of left.splice(0)) one.fail(fault as Error);
  } finally {
    for (const { signal } of all) signal.removeEventListener("abort", leave);
  }
}

/**
 * Requests an address when its turn comes, in order of request within a turn, so that the monitor's
 * picture never waits behind a page full of small ones. What waits at the same time comes in one
 * answer. What is given up before its turn is never requested.
 */
export function inLine(turn: Turn, signal: AbortSignal, address: string): Promise<Response> {
  return new Promise<Response>((come, fail) => {
    signal.addEventListener("abort", () => fail(signal.reason as Error), { once: true });
    waiting.push({ address: address.replace(/#.*/, ""), rank: TURNS[turn], signal, come, fail });
    if (asked) return;
    asked = true;
    // Wait for all that the page asks for now.
    queueMicrotask(next);
  });
}
