/** Reads what people type into a number: arithmetic, steps from what is there, and units. */

interface Context {
  /** What the value is now, for "+5" and "*2". */
  now: number;
  /** The value's unit, such as "%h" or "frames". */
  unit: string;
  /** Lines of the frame, for "20 px". */
  height: number;
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

/** The number typed, or null where it is none. */
export function readNumber(typed: string, { now, unit, height }: Context): number | null {
  let text = typed.trim().replaceAll("−", "-").replaceAll(",", ".").replaceAll("×", "*");
  let factor = 1;
  const named = /\s*(px|%h|%w|%|°|cells?|frames?|s|\/s)$/i.exec(text);
  if (named) {
    text = text.slice(0, -named[0].length);
    if (named[1]?.toLowerCase() === "px" && unit === "%h") factor = 100 / height;
  }
  text = text.replaceAll(/\s+/g, "");
  if (text === "") return null;
  const relative = /^[*/]|^\+/.test(text);
  const reader = new Reader(relative ? `(${now})${text}` : text);
  const found = reader.sum() * factor;
  return reader.done && Number.isFinite(found) ? found : null;
}
