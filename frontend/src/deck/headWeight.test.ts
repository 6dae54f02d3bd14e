import { beforeEach, describe, expect, it, vi } from "vitest";
import { testStage } from "../timekit/testStage";
import { keyAt } from "../timekit/tracks/weight";
import { headWeightTrack, useHeadDrag, withKey } from "./headWeight";
import type { Weight } from "../drawer/weights";

const weight: Weight = { value: 1, keys: { a: [10, 0, 0, 0, "linear"], b: [30, 1, 0, 0, "linear"] } };
const BAND = { top: 100, height: 30 };
const at = (x: number, y: number) => ({ x, y, adding: false });
const onTry = vi.fn();
const onKeep = vi.fn(() => Promise.resolve());
const track = (of: Weight = weight, drag: { id: string; frame: number; value: number } | null = null) =>
  headWeightTrack({ weight: of, path: "headWeight", drag, onTry, onKeep });

beforeEach(() => {
  vi.clearAllMocks();
  useHeadDrag.setState({ key: null });
});

// Ten pixels a frame; 1 lies 5 pixels below the track's top, 0 at 25.
describe("the head's weight in the deck", () => {
  it("has a key where it was set", () => {
    const keys = [{ id: "a", frame: 10, value: 0 }];
    expect(keyAt(testStage().axis, keys, 102, 24)?.id).toBe("a");
    expect(keyAt(testStage().axis, keys, 120, 24)).toBeNull();
  });
  it("is tried while a key is dragged, and kept where it is dropped", async () => {
    const gesture = track().press!(testStage(), BAND, at(100, 125));
    if (!gesture || gesture === "taken") throw new Error("nothing to drag");
    gesture.move(at(150, 115));
    expect(useHeadDrag.getState().key).toEqual({ id: "a", frame: 15, value: 0.5 });
    expect(onTry).toHaveBeenCalledWith([{ path: "headWeight/keys/a", value: [15, 0.5, 0, 0, "linear"] }]);
    gesture.release(at(150, 115));
    expect(onKeep).toHaveBeenCalledWith("drag a key of the head weight", [
      { path: "headWeight/keys/a", value: [15, 0.5, 0, 0, "linear"] },
    ]);
    await vi.waitFor(() => expect(useHeadDrag.getState().key).toBeNull());
  });
  it("stays within the take and within 0 and 1", () => {
    const gesture = track().press!(testStage(), BAND, at(100, 125));
    if (!gesture || gesture === "taken") throw new Error("nothing to drag");
    gesture.move(at(-400, 40));
    expect(useHeadDrag.getState().key).toEqual({ id: "a", frame: 0, value: 1 });
  });
  it("is pressed without a drag, or beside a key, and nothing changes", () => {
    const gesture = track().press!(testStage(), BAND, at(100, 125));
    if (gesture && gesture !== "taken") gesture.release(at(100, 125));
    expect(track().press!(testStage(), BAND, at(200, 105))).toBeNull();
    expect(onKeep).not.toHaveBeenCalled();
  });
  it("gets a key by a double click, and loses the one that is met", () => {
    track().twice!(testStage(), BAND, at(200, 115));
    expect(onKeep).toHaveBeenLastCalledWith("key the head weight", [
      expect.objectContaining({ value: [20, 0.5, 0, 0, "linear"] }),
    ]);
    track().twice!(testStage(), BAND, at(100, 125));
    expect(onKeep).toHaveBeenLastCalledWith("take a key of the head weight away", [
      { path: "headWeight/keys/a", remove: true },
    ]);
  });
  it("keeps what it was with its first key", () => {
    track({ value: 0.4, keys: {} }).twice!(testStage(), BAND, at(200, 105));
    expect(onKeep).toHaveBeenLastCalledWith("key the head weight", [
      expect.objectContaining({ value: [20, 0.4, 0, 0, "linear"] }),
    ]);
  });
  it("says what it is and what can be done", () => {
    const say = (x: number, y: number) => track().say!(testStage(), BAND, { x, y });
    expect(say(100, 125)).toContain("face moves the head 0.00 at frame 10");
    expect(say(200, 115)).toBe("face moves the head 0.50: a double click adds a key");
  });
  it("is drawn as a line with its keys, the dragged one where it is", () => {
    const stage = testStage();
    track(weight, { id: "a", frame: 20, value: 1 }).draw(stage, BAND);
    expect(stage.calls.filter((c) => c.what === "fill")).toHaveLength(2);
    expect(withKey(weight, { id: "gone", frame: 1, value: 1 })).toBe(weight);
    expect(withKey(weight, { id: "a", frame: 20, value: 1 }).keys.a![0]).toBe(20);
  });
});
