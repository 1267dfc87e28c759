import { describe, expect, it } from "vitest";
import { aheadAt, readRun, runAt, runsOf } from "./runs";

const record = (bytes: number[], faulty = false) => {
  const length = (bytes.length | (faulty ? 0x80000000 : 0)) >>> 0;
  return [length >>> 24, (length >>> 16) & 255, (length >>> 8) & 255, length & 255, ...bytes];
};

/** Reads a stream that arrives in pieces of a size. */
async function read(sent: number[], piece: number): Promise<number[][]> {
  const pictures: Blob[] = [];
  const body = new ReadableStream<Uint8Array<ArrayBuffer>>({
    start(stream) {
      for (let at = 0; at < sent.length; at += piece)
        stream.enqueue(new Uint8Array(sent.slice(at, at + piece)));
      stream.close();
    },
  });
  await readRun(body, (picture) => pictures.push(picture));
  return Promise.all(pictures.map(async (one) => [...new Uint8Array(await one.arrayBuffer())]));
}

describe("a run of frames", () => {
  const sent = [...record([1, 2, 3]), ...record([9]), ...record([7, 7, 7, 7, 7, 7])];
  it.each([1, 2, 3, 5, 100])("is read from pieces of %d bytes", async (piece) => {
    expect(await read(sent, piece)).toEqual([[1, 2, 3], [9], [7, 7, 7, 7, 7, 7]]);
  });

  it("ends with the sentence of a fault", async () => {
    const told = [...new TextEncoder().encode("No room.")];
    await expect(read([...record([1]), ...record(told, true)], 4)).rejects.toThrow("No room.");
  });

  it("is named by its first frame, its length and its direction", () => {
    const more = { count: 3, by: -1, keep: true } as const;
    expect(runAt("/api/x/frame.jpg?frame=8&width=32#2", more)).toBe(
      "/api/x/frames?frame=8&width=32&count=3&by=-1&keep=true",
    );
    expect(aheadAt("/api/x/frame.jpg?frame=8&width=32#2")).toBe("/api/x/ahead?frame=8&width=32");
  });

  it("joins neighbours", () => {
    expect(runsOf(new Set([4, 1, 2, 9, 3]))).toEqual([
      [1, 5],
      [9, 10],
    ]);
  });
});
