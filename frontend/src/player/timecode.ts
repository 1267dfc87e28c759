/** Rates that people choose from, exact. */
export const RATES: readonly { value: string; label: string }[] = [
  { value: "24000/1001", label: "23.976" },
  { value: "24", label: "24" },
  { value: "25", label: "25" },
  { value: "30000/1001", label: "29.97" },
  { value: "30", label: "30" },
  { value: "50", label: "50" },
  { value: "60000/1001", label: "59.94" },
  { value: "60", label: "60" },
];

/** An exact rate such as "30000/1001" as a number. */
export function rateOf(text: string | undefined): number {
  const [over, under] = (text ?? "25").split("/").map(Number);
  return (over ?? 25) / (under ?? 1);
}

/** A rate as people write it: 29.97. */
export const shownRate = (rate: number) => String(Number(rate.toFixed(3)));

/** The whole frame count a second of timecode, and the labels that drop-frame skips each minute. */
function counting(rate: number): { base: number; left: number } {
  const base = Math.ceil(rate - 1e-6);
  const drops = base % 30 === 0 && Math.abs(rate * 1.001 - base) < 1e-6;
  return { base, left: drops ? base / 15 : 0 };
}

/** Frames as HH:MM:SS:FF, or HH:MM:SS;FF in drop-frame. SMPTE ST 12-1:2014, section 5.2.2. */
export function timecode(frame: number, rate: number): string {
  const { base, left } = counting(rate);
  let count = frame;
  if (left) {
    const [minute, ten] = [base * 60 - left, base * 600 - 9 * left];
    const rest = count % ten;
    count += 9 * left * Math.floor(count / ten);
    if (rest >= base * 60) count += left * (1 + Math.floor((rest - base * 60) / minute));
  }
  const two = (value: number) => String(value).padStart(2, "0");
  const seconds = Math.floor(count / base);
  const clock = [Math.floor(seconds / 3600) % 24, Math.floor(seconds / 60) % 60, seconds % 60];
  return `${clock.map(two).join(":")}${left ? ";" : ":"}${two(count % base)}`;
}

/** Frames of typed timecode, read from the right: "2:10", "00:00:02:10"; null if it cannot be read.
 * */
export function framesOf(typed: string, rate: number): number | null {
  const words = typed.trim().split(/[:;.]/);
  if (words.length > 4 || words.some((one) => !/^\d+$/.test(one))) return null;
  const parts = words.map(Number);
  const [frames = 0, seconds = 0, minutes = 0, hours = 0] = parts.reverse();
  const { base, left } = counting(rate);
  const total = hours * 60 + minutes;
  return (total * 60 + seconds) * base + frames - left * (total - Math.floor(total / 10));
}
