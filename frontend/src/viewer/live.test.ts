import { describe, expect, it } from "vitest";
import { calmed, Lateness } from "./live";

describe("what is live", () => {
  it("goes from what was shown to a new look, at once where nothing was shown", () => {
    expect(calmed([], [0.5, 1])).toEqual([0.5, 1]);
    expect(calmed([0, 1], Float32Array.from([1, 1]))[0]).toBeCloseTo(0.6);
  });
  it("says how late its frames are, each counted once", () => {
    const late = new Lateness();
    for (let n = 1; n <= 100; n++) {
      late.note(n, 2 * n);
      late.note(n, 999);
    }
    expect(late.said()).toEqual([100, 51, 96]);
    expect(new Lateness().said()).toEqual([0, 0, 0]);
  });
});
