/** Runs of frames: the server sends several pictures in one answer, each as soon as it is there. */

export interface RunOf {
  count: number;
  /** 1 for forwards, -1 for backwards. */
  by: 1 | -1;
  /** Whether the server keeps the pictures on the disk. */
  keep: boolean;
  /** Whether nobody waits for them yet. */
  ahead: boolean;
}

/** The address of a run that begins with the frame at an address. */
export function runAt(url: string, { count, by, keep, ahead }: RunOf): string {
  const [address = ""] = url.split("#");
  const more = `&count=${count}&by=${by}${keep ? "&keep=true" : ""}${ahead ? "&ahead=true" : ""}`;
  return address.replace("/frame.jpg?", "/frames?") + more;
}

const LENGTH_BYTES = 4;
/** Marks the length of a sentence, where the length of a picture would stand. */
const FAULTY = 0x80000000;

/**
 * Reads the pictures of a run as they come.
 *
 * A fault in the middle of it is thrown as an error with its sentence.
 */
export async function readRun(
  body: ReadableStream<Uint8Array<ArrayBuffer>>,
  onPicture: (picture: Blob) => void,
): Promise<void> {
  const reader = body.getReader();
  let parts: Uint8Array<ArrayBuffer>[] = [];
  let held = 0;
  let wanted = LENGTH_BYTES;
  let length: number | null = null;
  const take = () => {
    const taken = new Uint8Array(wanted);
    let at = 0;
    while (at < wanted) {
      const first = parts.shift()!;
      const rest = wanted - at;
      taken.set(first.subarray(0, rest), at);
      at += Math.min(first.length, rest);
      if (first.length > rest) parts.unshift(first.subarray(rest));
    }
    held -= wanted;
    return taken;
  };
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    parts = [...parts, value];
    held += value.length;
    while (held >= wanted) {
      const taken = take();
      if (length === null) {
        length = new DataView(taken.buffer).getUint32(0);
        wanted = length % FAULTY;
        continue;
      }
      if (length >= FAULTY) throw new Error(new TextDecoder().decode(taken));
      onPicture(new Blob([taken], { type: "image/jpeg" }));
      length = null;
      wanted = LENGTH_BYTES;
    }
  }
}

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
