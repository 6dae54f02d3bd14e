// Laying a pose on a face: how far, mirrored, on some regions, by what a layer does.
import { describe, expect, it, vi } from "vitest";

vi.mock("../../playback/clock", () => ({ clock: { frame: 0, range: null } }));
const { layPose, mirroredPose } = await import("./poses");

const REGION = {
  jawOpen: "jaw",
  mouthSmileLeft: "lips",
  mouthSmileRight: "lips",
  headTurn: "head",
  cheekPuff: "cheeks",
};
const POSE = { jawOpen: 0.6, mouthSmileLeft: 0.4, mouthSmileRight: 0, headTurn: 10, cheekPuff: 0 };
const now = (channel: string) => ({ jawOpen: 0.2, mouthSmileLeft: 0.4 })[channel] ?? 0;
const said = (channel: string) => (channel === "jawOpen" ? 0.1 : 0);
const whole = { share: 1, mirrored: false, regions: [] };

describe("a pose", () => {
  it("exchanges its sides, and turns the head the other way", () => {
    expect(mirroredPose({ mouthSmileLeft: 0.4, jawRight: 0.2, headTurn: 10, headNod: 5, jawOpen: 1 })).toEqual({
      mouthSmileRight: 0.4,
      jawLeft: 0.2,
      headTurn: -10,
      headNod: 5,
      jawOpen: 1,
    });
    expect(mirroredPose(mirroredPose(POSE))).toEqual(POSE);
  });
  it("is what is missing to it in a layer that adds, on top of what the layer says", () => {
    expect(layPose(POSE, whole, REGION, true, now, said)).toEqual({ jawOpen: 0.5, headTurn: 10 });
  });
  it("is the pose itself in a layer that replaces", () => {
    expect(layPose(POSE, whole, REGION, false, now, said)).toEqual({ jawOpen: 0.6, mouthSmileLeft: 0.4, headTurn: 10 });
  });
  it("goes as far as it is dragged", () => {
    expect(layPose(POSE, { ...whole, share: 0.5 }, REGION, true, now, said)).toEqual({ jawOpen: 0.3, headTurn: 5 });
    expect(layPose(POSE, { ...whole, share: 0 }, REGION, true, now, said)).toEqual({});
  });
  it("is put on some regions alone", () => {
    expect(layPose(POSE, { ...whole, regions: ["head"] }, REGION, true, now, said)).toEqual({ headTurn: 10 });
  });
});
