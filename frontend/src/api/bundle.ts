// A binary bundle: "DYNB", length of a JSON head, the head, then float32 and int32 arrays named in the head.
/** Whole numbers (frames, columns) are exact up to 2^24. */
export type Table = { data: Float32Array; shape: number[] };
export type Bundle = { head: Record<string, unknown>; arrays: Record<string, Table> };

const MAGIC = 0x424e5944; // "DYNB", little-endian

export function readBundle(raw: ArrayBuffer): Bundle {
  const view = new DataView(raw);
  if (raw.byteLength < 8 || view.getUint32(0, true) !== MAGIC) throw new Error("this is no bundle of curves");
  const length = view.getUint32(4, true);
  if (8 + length > raw.byteLength) throw new Error("the bundle's head is cut off");
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(raw, 8, length))) as Record<string, unknown>;
  const arrays: Record<string, Table> = {};
  let at = 8 + length;
  for (const { name, shape, type } of head.arrays as { name: string; shape: number[]; type?: string }[]) {
    const count = shape.reduce((a, b) => a * b, 1);
    if (at + count * 4 > raw.byteLength) throw new Error(`the bundle's ${name} is cut off`);
    const data = type === "i4" ? Float32Array.from(new Int32Array(raw, at, count)) : new Float32Array(raw, at, count);
    arrays[name] = { data, shape };
    at += count * 4;
  }
  return { head, arrays };
}
