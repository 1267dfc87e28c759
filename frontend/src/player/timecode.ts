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

/** Frames of what was typed as timecode, from the right: "2:10", "00:00:02:10"; null for nonsense. */
export function framesOf(typed: string, rate: number): number | null {
  const parts = typed.trim().split(/[:;.]/).map(Number);
  if (!parts.length || parts.length > 4 || parts.some((one) => !Number.isInteger(one) || one < 0))
    return null;
  const [frames = 0, seconds = 0, minutes = 0, hours = 0] = parts.reverse();
  return ((hours * 60 + minutes) * 60 + seconds) * Math.ceil(rate - 1e-9) + frames;
}
