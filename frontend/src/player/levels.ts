/** Levels of a picture: 0 is the size on screen, each further level half as wide and high. */
export type Level = 0 | 1 | 2;

export const COARSEST: Level = 2;

export interface Pixels {
  width: number;
  height: number;
}

export function atLevel({ width, height }: Pixels, level: Level): Pixels {
  const part = 2 ** level;
  return {
    width: Math.max(2, Math.round(width / part / 2) * 2),
    height: Math.max(2, Math.round(height / part / 2) * 2),
  };
}

/** The name of a level beside the frame rate. */
export const LEVEL_WORDS = ["", "half size", "quarter size"] as const;
