import { afterEach, describe, expect, it, vi } from "vitest";
import { clock } from "../playback/clock";
import * as workspace from "../workspace/workspace";
import { followTimeline, playedBy, sendsTimeline } from "./timelineOut";
import type { OutState } from "./feedModel";

const out = (of: OutState["of"]) => ({ of }) as OutState;
const curves = { channels: ["jawOpen"], frames: 3, tidied: { data: Float32Array.from([0, 0.5, 1]) } };
const state = { opened: { take: { body: { performer: "Mara Quill" } } }, shot: null, curves };

afterEach(() => vi.restoreAllMocks());

describe("the timeline as a feed out", () => {
  it("is wanted where any feed out sends it", () => {
    expect(sendsTimeline(null)).toBe(false);
    expect(sendsTimeline({ outs: [out("live")] })).toBe(false);
    expect(sendsTimeline({ outs: [out("live"), out("both")] })).toBe(true);
  });
  it("is of the take's performer, or of the role's", () => {
    expect(playedBy(state as never)).toBe("Mara Quill");
    const shot = { role: "r", opened: { shot: { body: { roles: { r: { performer: "Ivo Thackett" } } } } } };
    expect(playedBy({ opened: null, shot } as never)).toBe("Ivo Thackett");
    expect(playedBy({ opened: null, shot: null })).toBe("");
  });
  it("tells each frame once, and nothing while nobody wants it", () => {
    vi.spyOn(workspace, "openSession").mockReturnValue({ id: "take" } as never);
    vi.spyOn(workspace, "sessionState").mockReturnValue(state as never);
    clock.load(3 / 60, 60);
    const told: unknown[] = [];
    let wanted = true;
    const off = followTimeline(
      (what, given) => told.push([what, given.values, given.performer]),
      () => wanted,
    );
    clock.seekFrame(1);
    clock.seekFrame(1);
    clock.seekFrame(2);
    wanted = false;
    clock.seekFrame(0);
    off();
    wanted = true;
    clock.seekFrame(1);
    expect(told).toEqual([
      ["play", { jawOpen: 0.5 }, "Mara Quill"],
      ["play", { jawOpen: 1 }, "Mara Quill"],
    ]);
  });
});
