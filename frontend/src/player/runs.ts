/** Runs of frames: the server sends several pictures in one answer, each as soon as it is there. */

import { readChunks } from "../api/chunks";

export interface RunOf {
  count: number;
  /** 1 for forwards, -1 for backwards. */
  by: 1 | -1;
  /** Whether the server keeps the pictures on the disk. */
  keep: boolean;
}

/** The address of a run that begins with the frame at an address. */
export const runAt = (url: string, { count, by, keep }: RunOf): string =>
  `${other(url, "frames")}&count=${count}&by=${by}${keep ? "&keep=true" : ""}`;

/** The address at which the server computes the frames from one on, and tells which are ready. */
export const aheadAt = (url: string): string => other(url, "ahead");

const other = (url: string, name: string) =>
  url.replace(/#.*/, "").replace("/frame.jpg?", `/${name}?`);

/** Reads the pictures of a run as they come; see {@link readChunks}. */
export const readRun = (
  body: ReadableStream<Uint8Array<ArrayBuffer>>,
  onPicture: (picture: Blob) => void,
): Promise<void> =>
  readChunks(body, (chunk) => onPicture(new Blob([chunk], { type: "image/jpeg" })));

/** Runs of neighbouring frames, each from its first frame to the one after its last. */
export function runsOf(frames: ReadonlySet<number>): [number, number][] {
  const found: [number, number][] = [];
  for (const frame of [...frames].sort((a, b) => a - b)) {
    const last = found.at(-1);
    if (last?.[1] === frame) last[1] = frame + 1;
    else found.push([frame, frame + 1]);
  }
  return found;
}
