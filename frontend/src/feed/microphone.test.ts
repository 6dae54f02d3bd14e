import { expect, it } from "vitest";
import { packedPiece } from "./microphone";

it("a piece of sound goes with its rate, how late it is and its channels, within 16 bits", () => {
  const view = new DataView(packedPiece(Float32Array.from([0, 0.5, -2, 2]), 48000, 0.25, 2));
  expect(view.byteLength).toBe(12 + 8);
  expect(view.getUint32(0, true)).toBe(48000);
  expect(view.getFloat32(4, true)).toBe(0.25);
  expect(view.getUint32(8, true)).toBe(2);
  expect([0, 1, 2, 3].map((i) => view.getInt16(12 + 2 * i, true))).toEqual([0, 16384, -32767, 32767]);
});
