/** Frames as HH:MM:SS:FF at a whole number of frames a second; the server knows drop-frame. */
export function timecode(frame: number, rate: number): string {
  const base = Math.ceil(rate - 1e-9);
  const two = (value: number) => String(value).padStart(2, "0");
  const seconds = Math.floor(frame / base);
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(
    seconds % 60,
  )}:${two(frame % base)}`;
}

/** An exact rate such as "30000/1001" as a number. */
export function rateOf(text: string): number {
  const [over, under] = text.split("/").map(Number);
  return (over ?? 25) / (under ?? 1);
}
