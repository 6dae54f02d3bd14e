import { beforeEach, describe, expect, it, vi } from "vitest";
import { MOST_WATCHED, placeColumns, toggled, toggleWatched, useWatched, watchedJoints } from "./watched";

describe("joints that are looked at", () => {
  beforeEach(() => useWatched.setState({ joints: {} }));

  it("have looks that are turned on and off, and go with their last one", () => {
    const one = toggled({}, "hips", "height");
    const two = toggled(one, "hips", "trail");
    expect(two).toEqual({ hips: ["height", "trail"] });
    expect(toggled(toggled(two, "hips", "height"), "hips", "trail")).toEqual({});
  });
  it("are only so many, the newest", () => {
    let joints = {};
    for (let n = 0; n < MOST_WATCHED + 2; n++) joints = toggled(joints, `joint ${n}`, "turn");
    expect(Object.keys(joints)).toHaveLength(MOST_WATCHED);
    expect(Object.keys(joints)[0]).toBe("joint 2");
  });
  it("are asked for once each, whatever is looked at of them", () => {
    const asked: string[][] = [];
    const session = { refresh: vi.fn(() => Promise.resolve(void asked.push(watchedJoints()))) };
    toggleWatched("hips", "height", session);
    toggleWatched("hips", "turn", session);
    toggleWatched("head", "trail", session);
    expect(asked).toEqual([["hips"], ["hips", "head"]]);
    expect(watchedJoints()).toEqual(["hips", "head"]);
    toggleWatched("neck", "trail", null);
    expect(watchedJoints()).toContain("neck");
  });
  it("have their place in three columns", () => {
    const columns = ["joint hips turn y", "joint hips at x", "joint hips at y", "joint hips at z"];
    expect(placeColumns(columns, "hips")).toEqual([1, 2, 3]);
    expect(placeColumns(columns, "head")).toBeNull();
  });
});
