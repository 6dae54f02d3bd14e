import { describe, expect, it } from "vitest";
import type { Body } from "../../workspace/workspace";
import { openedShot, placement } from "../../workspace/fakeShots";
import type { ShotState } from "../../workspace/state";
import { tellingFrame, wanted } from "./clipFaces";

const FRAMES = 300;
/** Two targets, all at rest but for one frame. */
function weights(loud: number) {
  const data = new Float32Array(FRAMES * 2);
  data[loud * 2 + 1] = 0.4;
  data[(loud + 5) * 2] = 1; // a blink tells nothing
  return { data, shape: [FRAMES, 2] };
}
function shot(bodies: Record<string, Body | null>): ShotState {
  const opened = openedShot();
  const role = opened.shot.body.roles.odile!;
  role.placements = {
    a: placement({ clip: "one", start: "0", first: "0", last: "1" }),
    b: placement({ clip: "one", start: "2", first: "0", last: "1" }),
    c: placement({ clip: "two", start: "1", first: "0", last: "2" }),
    d: placement({ clip: "mute", mute: true }),
  };
  return { opened, bodies, role: "odile", layer: null, props: null, takes: {}, stepped: false, rig: null };
}
const body = (loud: number) => ({ weights: weights(loud) }) as unknown as Body;

describe("the picture of a clip", () => {
  it("is of the frame at which most of the face is in use, within its stretch", () => {
    expect(tellingFrame(weights(30), 0, 59)).toBe(30);
    expect(tellingFrame(weights(30), 60, 119)).toBe(60);
    expect(tellingFrame(weights(299), 100, 9999)).toBeLessThan(FRAMES);
  });
  it("is wanted once a clip, of roles that stand on the stage, at frames of the shot", () => {
    const found = wanted(shot({ odile: body(30) }), () => false);
    expect(found.map((w) => [w.clip, w.role])).toEqual([
      ["one", "odile"],
      ["two", "odile"],
    ]);
    expect(found[0]!.frame).toBe(30);
    expect(found[1]!.frame).toBeGreaterThanOrEqual(60);
  });
  it("is not wanted where there is one, or no body", () => {
    expect(wanted(shot({ odile: body(30) }), (clip) => clip === "one").map((w) => w.clip)).toEqual(["two"]);
    expect(wanted(shot({ odile: null }), () => false)).toEqual([]);
  });
});
