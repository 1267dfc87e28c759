import { framesOf } from "../player/timecode";

/** Reads typed numbers: arithmetic, changes of the present value, and units. */

interface Context {
  /** The present value, for "+5" and "*2". */
  now: number;
  /** The value's unit, such as "%h" or "frames". */
  unit: string;
  /** Lines of the frame, for "20 px". */
  height: number;
  /** Columns of the frame, for pixels of values measured across the width. */
  width: number;
  /** Frames a second, for "3 frames". */
  rate: number;
}

class Reader {
  private at = 0;
  constructor(private readonly text: string) {}

  sum(): number {
    let total = this.product();
    for (;;) {
      if (this.take("+")) total += this.product();
      else if (this.take("-")) total -= this.product();
      else return total;
    }
  }

  private product(): number {
    let total = this.part();
    for (;;) {
      if (this.take("*")) total *= this.part();
      else if (this.take("/")) total /= this.part();
      else return total;
    }
  }

  private part(): number {
    if (this.take("-")) return -this.part();
    if (this.take("+")) return this.part();
    if (this.take("(")) {
      const inner = this.sum();
      if (!this.take(")")) return NaN;
      return inner;
    }
    const found = /^\d*\.?\d+(e-?\d+)?/i.exec(this.text.slice(this.at));
    if (!found) return NaN;
    this.at += found[0].length;
    return Number(found[0]);
  }

  private take(sign: string): boolean {
    if (this.text[this.at] !== sign) return false;
    this.at += 1;
    return true;
  }

  get done(): boolean {
    return this.at === this.text.length;
  }
}

/** The factor from a typed unit to the value's unit; null if they do not fit. */
function factorOf(typed: string, { unit, height, width, rate }: Context): number | null {
  const said = typed.toLowerCase().replace(/s$/, (end) => (typed.length > 2 ? "" : end));
  if (said === unit.toLowerCase() || `${said}s` === unit.toLowerCase()) return 1;
  const known: Record<string, Record<string, number>> = {
    "%h": { px: 100 / height, "%": 1 },
    "%w": { px: 100 / width, "%": 1 },
    px: { "%h": height / 100, "%w": width / 100 },
    s: { frame: 1 / rate, f: 1 / rate, m: 1 / 1000, ms: 1 / 1000, min: 60 },
    frames: { s: rate, second: rate, ms: rate / 1000, m: rate / 1000, f: 1 },
    "°": { turn: 360, rad: 180 / Math.PI, deg: 1 },
    "": { "%": 1 / 100 },
  };
  return known[unit]?.[said] ?? null;
}

/** A key's time: an anchor, and the effect that it lies in. */
interface Place {
  anchor: "share" | "start" | "end";
  /** The present time: a share, or seconds from the anchor. */
  now: number;
  /** Seconds from the first frame to the last. */
  span: number;
  rate: number;
}

/**
 * The typed time of a key, as its anchor counts it; null if it cannot be read.
 *
 * It takes frames, seconds and timecode from the anchor (for a share, from the start), a percentage of
 * the length, and without a unit percent for a share and seconds otherwise.
 */
export function readTime(typed: string, { anchor, now, span, rate }: Place): number | null {
  const share = anchor === "share";
  const sized = (unit: string, present: number) =>
    readNumber(typed.replace(/%\s*$/, ""), { now: present, unit, height: 1080, width: 1920, rate });
  const frames = /[:;]/.test(typed) ? framesOf(typed, rate) : null;
  if (/%\s*$/.test(typed) || (share && !/[a-z:;]/i.test(typed))) {
    const found = sized("", (share ? now : now / span) * 100);
    if (found === null) return null;
    if (share) return found / 100;
    return anchor === "start" ? (found / 100) * span : (1 - found / 100) * span;
  }
  const seconds = frames === null ? sized("s", share ? now * span : now) : frames / rate;
  if (seconds === null) return null;
  return share ? seconds / Math.max(span, 1e-9) : seconds;
}

const UNIT = /\s*(px|%h|%w|%|°|deg|rad|turns?|cells?|passes|frames?|f|ms|min|seconds?|s|\/s)$/i;

/** The typed number; null if it does not fit the value. */
export function readNumber(typed: string, context: Context): number | null {
  if (/^\d+([:;]\d+)+$/.test(typed.trim()) && (context.unit === "s" || context.unit === "frames")) {
    const frames = framesOf(typed, context.rate);
    return frames === null || context.unit === "frames" ? frames : frames / context.rate;
  }
  let text = typed.trim().replaceAll("−", "-").replaceAll(",", ".").replaceAll("×", "*");
  let factor: number | null = 1;
  const named = UNIT.exec(text);
  if (named?.[1]) {
    text = text.slice(0, -named[0].length);
    factor = factorOf(named[1], context);
  }
  text = text.replaceAll(/\s+/g, "");
  if (text === "" || factor === null) return null;
  const relative = /^[*/]|^\+/.test(text);
  const reader = new Reader(relative ? `(${context.now / factor})${text}` : text);
  const found = reader.sum() * factor;
  return reader.done && Number.isFinite(found) ? found : null;
}
