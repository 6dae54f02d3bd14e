import { describe, expect, it } from "vitest";
import { placeOf } from "./propModels";

const data = Float32Array.from({ length: 3 * 2 * 7 }, (_, i) => i);
const ways = { columns: ["lantern", "oar"], table: { data, shape: [3, 2, 7] }, short: {} };

describe("where a prop is", () => {
  it("is its own seven numbers of the frame, held beyond either end", () => {
    expect(placeOf(ways, "oar", 1)).toEqual([21, 22, 23, 24, 25, 26, 27]);
    expect(placeOf(ways, "oar", 99)).toEqual(placeOf(ways, "oar", 2));
    expect(placeOf(ways, "lantern", -4)).toEqual([0, 1, 2, 3, 4, 5, 6]);
  });
  it("is nowhere for one that is not known yet, and in no frames", () => {
    expect(placeOf(ways, "rope", 0)).toBeNull();
    expect(placeOf({ ...ways, table: { data: new Float32Array(), shape: [0, 2, 7] } }, "oar", 0)).toBeNull();
  });
});
