import { describe, expect, it } from "vitest";
import { keySet, weightAt, weightSet } from "./weights";

describe("a weight over time", () => {
  it("is straight between its keys", () => {
    const weight = {
      value: 0.3,
      keys: { a: [0, 0, 0, 0, "linear"], b: [10, 1, 0, 0, "stepped"], c: [20, 0, 0, 0, "linear"] },
    } as never;
    expect([-5, 0, 5, 10, 15, 25].map((f) => weightAt(weight, f))).toEqual([0, 0, 0.5, 1, 1, 0]);
    expect(weightAt({ value: 0.3, keys: {} }, 4)).toBe(0.3);
  });
  it("is set everywhere, or at the playhead where it is keyed", () => {
    expect(weightSet("weight", { value: 1, keys: {} }, 5, 0.4)).toEqual([{ path: "weight/value", value: 0.4 }]);
    const keyed = { k: [5, 1, 0, 0, "linear"] } as never;
    expect(weightSet("weight", { value: 1, keys: keyed }, 5.2, 0.4)[0]!.path).toBe("weight/keys/k");
    expect(keySet("x", keyed, 9, 0.1).path).not.toBe("x/k");
  });
});
