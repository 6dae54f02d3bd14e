import { describe, expect, it } from "vitest";
import { calmed, Lateness, withDriven, type Driven } from "./live";

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

describe("characters that are driven at once", () => {
  const of = (name: string, weight = 0): Driven => ({
    of: name,
    called: name,
    source: "s",
    targets: ["a"],
    weights: [weight],
    still: [],
    joints: [],
    motion: [],
    shifted: [],
    shifts: [],
  });

  it("move one by one, in the order in which they are kept", () => {
    const both = withDriven([of("2")], of("1"), ["1", "2"]);
    expect(both.map((d) => d.of)).toEqual(["1", "2"]);
    const moved = withDriven(both, of("2", 0.5), ["1", "2"]);
    expect(moved[0]).toBe(both[0]);
    expect(moved[1]!.weights).toEqual([0.5]);
  });

  it("are gone when they are not kept", () => {
    expect(withDriven([of("1"), of("2")], of("2"), ["2"]).map((d) => d.of)).toEqual(["2"]);
  });
});
