/** Levels of a picture: 0 is as large as it is shown, each further one half as wide and high. */
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

/** What a level is called beside the frame rate. */
export const LEVEL_WORDS = ["", "half size", "quarter size"] as const;
