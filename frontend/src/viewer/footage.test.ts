import { describe, expect, it } from "vitest";
import { jobsOf } from "../workspace/useDeskJobs";
import { reason } from "../camera/recorder";
import { placed, videoTime } from "./footage";

describe("footage in its view", () => {
  it("fits a picture whole into a box, in its middle", () => {
    expect(placed(480, 480, 960, 480)).toEqual({ left: 240, top: 0, scale: 1 });
    expect(placed(1280, 720, 640, 640)).toEqual({ left: 0, top: 140, scale: 0.5 });
  });
  it("asks for the middle of a picture, so that rounding never shows its neighbour", () => {
    for (const rate of [24, 29.97, 60])
      for (const frame of [0, 1, 99]) expect(Math.floor(videoTime(frame / rate, 0, rate) * rate + 1e-6)).toBe(frame);
    expect(videoTime(0, 12, 30)).toBeCloseTo(12.5 / 30);
  });
});

describe("the jobs of a desk", () => {
  it("shows only jobs on footage", () => {
    const job = (kind: string) => ({ id: kind, kind, label: "", state: "done", progress: 1, message: "", result: {} });
    expect(
      jobsOf([job("solve"), job("handover"), job("card")], ["footage", "card", "solve"]).map((j) => j.kind),
    ).toEqual(["solve", "card"]);
  });
});

describe("a camera that cannot be had", () => {
  it("says what to do", () => {
    expect(reason(new DOMException("", "NotAllowedError"))).toContain("Allow it");
    expect(reason(new DOMException("", "NotFoundError"))).toContain("Plug one in");
    expect(reason(new DOMException("", "NotReadableError"))).toContain("another program");
    expect(reason(new Error("odd"))).toContain("odd");
  });
});
