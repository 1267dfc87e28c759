/** Operations on exact pictures for the monitor: channels, differences, means of two moments. */

import type { Channel } from "../store";

/** Rec. 709 weights of luminance. */
const LUMINANCE = [0.2126, 0.7152, 0.0722] as const;

/** One channel as grey; the picture itself if all are wanted. */
export function channelOf(picture: ImageData, channel: Channel): ImageData {
  if (channel === "colour") return picture;
  const { data } = picture;
  const found = new ImageData(picture.width, picture.height);
  const single = { red: 0, green: 1, blue: 2, alpha: 3, luminance: -1 }[channel];
  for (let at = 0; at < data.length; at += 4) {
    const value =
      single >= 0
        ? data[at + single]!
        : Math.round(
            data[at]! * LUMINANCE[0] + data[at + 1]! * LUMINANCE[1] + data[at + 2]! * LUMINANCE[2],
          );
    found.data[at] = found.data[at + 1] = found.data[at + 2] = value;
    found.data[at + 3] = 255;
  }
  return found;
}

/** The absolute difference of two pictures, made brighter by a gain; alpha counts as a colour. */
export function differenceOf(one: ImageData, two: ImageData, gain: number): ImageData {
  const found = new ImageData(one.width, one.height);
  for (let at = 0; at < one.data.length; at += 4) {
    const clear = Math.abs(one.data[at + 3]! - two.data[at + 3]!);
    for (let part = 0; part < 3; part += 1) {
      const apart = Math.abs(one.data[at + part]! - two.data[at + part]!);
      found.data[at + part] = Math.min(255, Math.max(apart, clear) * gain);
    }
    found.data[at + 3] = 255;
  }
  return found;
}

/** The mean of two pictures, for two moments over each other. */
export function meanOf(one: ImageData, two: ImageData): ImageData {
  const found = new ImageData(one.width, one.height);
  for (let at = 0; at < one.data.length; at += 1)
    found.data[at] = (one.data[at]! + two.data[at]! + 1) >> 1;
  return found;
}

/** The largest difference of any channel, 0..255, and the share of pixels that differ at all. */
export function apart(one: ImageData, two: ImageData): { most: number; share: number } {
  let most = 0;
  let many = 0;
  for (let at = 0; at < one.data.length; at += 4) {
    let here = 0;
    for (let part = 0; part < 4; part += 1)
      here = Math.max(here, Math.abs(one.data[at + part]! - two.data[at + part]!));
    if (here) many += 1;
    most = Math.max(most, here);
  }
  return { most, share: many / (one.data.length / 4) };
}
