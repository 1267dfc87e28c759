/**
 * Safe areas of a frame, as shares of its sides.
 *
 * EBU R 95 and SMPTE ST 2046-1 agree for frames of 16:9 and wider: action within 93 % of the
 * width and the height, lettering within 90 % (both from memory).
 */

export interface Area {
  name: string;
  left: number;
  top: number;
  width: number;
  height: number;
}

const ACTION = 0.93;
const LETTERING = 0.9;

export function safeAreas(): Area[] {
  return [
    { name: "action", share: ACTION },
    { name: "lettering", share: LETTERING },
  ].map(({ name, share }) => ({
    name,
    left: (1 - share) / 2,
    top: (1 - share) / 2,
    width: share,
    height: share,
  }));
}
