const LENGTH_BYTES = 4;
/** Marks the length of a sentence, where the length of a piece would stand. */
const FAULTY = 0x80000000;

/**
 * Reads the pieces of a streamed answer as they come. Each piece comes after its length.
 *
 * A fault in the middle of it is thrown as an error with its sentence.
 */
export async function readChunks(
  body: ReadableStream<Uint8Array<ArrayBuffer>>,
  onChunk: (chunk: Uint8Array<ArrayBuffer>) => void,
): Promise<void> {
  let length: number | null = null;
  await readBytes(
    body,
    () => (length === null ? LENGTH_BYTES : length % FAULTY),
    (taken) => {
      if (length === null) {
        length = new DataView(taken.buffer).getUint32(0);
        return;
      }
      if (length >= FAULTY) throw new Error(new TextDecoder().decode(taken));
      length = null;
      onChunk(taken);
    },
  );
}

/** Reads the numbers of a streamed answer as they come, 4 bytes each. */
export const readNumbers = (
  body: ReadableStream<Uint8Array<ArrayBuffer>>,
  onNumber: (number: number) => void,
): Promise<void> =>
  readBytes(
    body,
    () => LENGTH_BYTES,
    (taken) => onNumber(new DataView(taken.buffer).getUint32(0)),
  );

/** Reads a stream in pieces of the lengths that are wanted. */
async function readBytes(
  body: ReadableStream<Uint8Array<ArrayBuffer>>,
  wanted: () => number,
  onTaken: (taken: Uint8Array<ArrayBuffer>) => void,
): Promise<void> {
  const reader = body.getReader();
  let parts: Uint8Array<ArrayBuffer>[] = [];
  let held = 0;
  const take = (length: number) => {
    const taken = new Uint8Array(length);
    let at = 0;
    while (at < length) {
      const first = parts.shift()!;
      const rest = length - at;
      taken.set(first.subarray(0, rest), at);
      at += Math.min(first.length, rest);
      if (first.length > rest) parts.unshift(first.subarray(rest));
    }
    held -= length;
    return taken;
  };
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    parts = [...parts, value];
    held += value.length;
    for (let length = wanted(); held >= length; length = wanted()) onTaken(take(length));
  }
}
