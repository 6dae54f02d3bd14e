import { beforeEach, describe, expect, it } from "vitest";
import { endLive, useLive } from "../viewer/live";
import { Frames } from "./frames";

const of = (sender: number) => ({
  type: "character",
  sender,
  source: "s",
  targets: ["a"],
  still: [],
  joints: [],
  shifted: [],
});

/** A frame of two channels and one target. */
function frame(sender: number, weight: number) {
  const raw = new ArrayBuffer(16 + 4 * 3);
  new DataView(raw).setUint32(0, sender, true);
  new Float32Array(raw, 16).set([0, 0, weight]);
  return raw;
}

describe("frames of characters", () => {
  beforeEach(() => endLive());
  const shown = () => useLive.getState().driven.map((d) => [d.of, d.called, Array.from(d.weights)]);

  it("are shown once their character was described, with what its sender is called", () => {
    const frames = new Frames();
    frames.show(frame(1, 0.5), 2, [1], () => "Mara");
    expect(shown()).toEqual([]);
    frames.describe(of(1));
    frames.show(frame(1, 0.5), 2, [1], () => "Mara");
    expect(shown()).toEqual([["1", "Mara", [0.5]]]);
    expect(useLive.getState().on).toBe(true);
  });

  it("stand in the order of who is shown, and those of others are passed over", () => {
    const frames = new Frames();
    for (const sender of [1, 2, 3]) frames.describe(of(sender));
    frames.show(frame(2, 0.25), 2, [1, 2], String);
    frames.show(frame(1, 0.5), 2, [1, 2], String);
    frames.show(frame(3, 1), 2, [1, 2], String);
    expect(shown()).toEqual([
      ["1", "1", [0.5]],
      ["2", "2", [0.25]],
    ]);
  });

  it("of what was forgotten, or of another size, show nothing", () => {
    const frames = new Frames();
    frames.describe(of(1));
    frames.show(frame(1, 0.5), 3, [1], String);
    frames.forget();
    frames.show(frame(1, 0.5), 2, [1], String);
    expect(shown()).toEqual([]);
  });
});
