/** Levels of a picture: 0 is the size on screen, each further level half as wide and high. */
export type Level = 0 | 1 | 2;

export const COARSEST: Level = 2;

export interface Pixels {
  width: number;
  height: number;
}

/** Lines between two sizes of pictures, and of small ones: there are few sizes, so that pictures are
 * found again. */
const LINES_APART = 18;
const SMALL_APART = 6;
const SMALL = 180;

const even = (side: number) => Math.max(2, Math.round(side / 2) * 2);

export function atLevel({ width, height }: Pixels, level: Level): Pixels {
  const part = 2 ** level;
  return { width: even(width / part), height: even(height / part) };
}

/** Lines of a picture with as many pixels as the screen has in a height, in CSS pixels. */
export function linesIn(height: number): number {
  const wanted = height * (globalThis.devicePixelRatio || 1);
  const apart = wanted > SMALL ? LINES_APART : SMALL_APART;
  return Math.max(LINES_APART, apart * Math.ceil((wanted - 0.5) / apart));
}

/** The size of a picture with as many pixels as the screen has in a box, up to the full size. */
export function sizeIn(boxHeight: number, full: Pixels): Pixels {
  const lines = linesIn(boxHeight);
  if (lines >= full.height) return full;
  return { width: even((lines * full.width) / full.height), height: lines };
}

/** The name of a level beside the frame rate. */
export const LEVEL_WORDS = ["", "half size", "quarter size"] as const;
