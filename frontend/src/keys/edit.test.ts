import { beforeEach, describe, expect, it, vi } from "vitest";
import type { TakeBody } from "../api/client";
import { clock } from "../playback/clock";
import { copyChosen, insertHere, jumpKey, keep, nudge, ofChosen, ofShown, pasteHere, show } from "./edit";
import type { KeyHolder } from "./keyHolder";
import { handOf, useKeys } from "./keys";

const { now } = vi.hoisted(() => ({
  now: { hand: {} as Record<string, unknown>, selected: [] as string[], channels: ["jawOpen", "browInnerUp"] },
}));
vi.mock("../workspace/workspace", () => ({ useWorkspace: { getState: () => ({ selected: now.selected }) } }));

const edits = vi.fn<KeyHolder["editKeys"]>(() => Promise.resolve(null));
const tryKeys = vi.fn();
const holder = {
  closed: false,
  takesKeys: false,
  shownOnRig: null as string[] | null,
  get hand() {
    return handOf({ hand: now.hand as TakeBody["hand"] });
  },
  get channels() {
    return now.channels;
  },
  editKeys: edits,
  tryKeys,
};

beforeEach(() => {
  vi.clearAllMocks();
  holder.takesKeys = false;
  now.hand = {
    jawOpen: { mode: "keys", keys: { b: [20, 0.5, 0, 0, "flat"], a: [10, 0.2, 0, 0, "flat"] } },
    browInnerUp: { mode: "offset", keys: { c: [15, 0, 0, 0, "flat"] } },
  };
  now.selected = ["jawOpen", "browInnerUp", "gone"];
  useKeys.setState({ chosen: {}, copied: {}, drag: { frames: 1, value: 0 }, offset: 0, snap: true });
  clock.load(10, 60);
});

const asked = () => edits.mock.calls.at(-1)!;

describe("an edit of keys", () => {
  it("goes to what holds the keys, then the drag is over", async () => {
    await keep(holder, "move keys", { do: "move", channels: { jawOpen: ["a"] } }, { jawOpen: [12] });
    expect(edits).toHaveBeenCalledWith("move keys", { do: "move", channels: { jawOpen: ["a"] } });
    expect(useKeys.getState()).toMatchObject({ drag: null, chosen: { jawOpen: [12] } });
  });
  it("lands on its own take after another was opened, and leaves what is chosen there alone", async () => {
    useKeys.setState({ chosen: { browInnerUp: [3] }, drag: null });
    holder.closed = true;
    await keep(holder, "move keys", { do: "move", channels: { jawOpen: ["a"] } }, { jawOpen: [12] });
    holder.closed = false;
    expect(edits).toHaveBeenCalledOnce();
    expect(useKeys.getState().chosen).toEqual({ browInnerUp: [3] });
  });
  it("is made of nothing where nothing is open", async () => {
    await keep(null, "move keys", { do: "move", channels: { jawOpen: ["a"] } });
    expect(edits).not.toHaveBeenCalled();
    expect([ofChosen(null, "delete"), ofShown(null, "reduce"), jumpKey(null, false)]).toEqual([null, null, false]);
  });
  it("is shown without being kept", () => {
    show(holder, { do: "move", channels: {} });
    expect(tryKeys).toHaveBeenCalledWith({ do: "move", channels: {} });
    expect(edits).not.toHaveBeenCalled();
  });
  it("names chosen keys by their ids, and is none without any", () => {
    expect(ofChosen(holder, "delete")).toBeNull();
    useKeys.setState({ chosen: { jawOpen: [20], browInnerUp: [99] } });
    expect(ofChosen(holder, "delete")).toEqual({ do: "delete", channels: { jawOpen: ["b"] } });
  });
  it("names the channels that are shown and that the take has", () => {
    expect(ofShown(holder, "reduce", { tolerance: 0.01 })).toEqual({
      do: "reduce",
      channels: { jawOpen: [], browInnerUp: [] },
      tolerance: 0.01,
    });
    now.selected = ["gone"];
    expect(ofShown(holder, "reduce")).toBeNull();
  });
});

describe("by keyboard", () => {
  it("chosen keys are nudged and stay chosen where they went", async () => {
    useKeys.setState({ chosen: { jawOpen: [10, 20] } });
    nudge(holder, 1, 0);
    await vi.waitFor(() => expect(useKeys.getState().chosen).toEqual({ jawOpen: [11, 21] }));
    expect(asked()).toEqual([
      "nudge keys",
      { do: "move", channels: { jawOpen: ["a", "b"] }, frames: 1, value: 0, snap: true },
    ]);
  });
  it("keys are inserted at the playhead on the shown channels that hold keys", () => {
    now.selected = ["jawOpen", "eyeBlinkLeft"];
    clock.seekFrame(33);
    insertHere(holder);
    expect(asked()).toEqual(["insert keys", { do: "insert", channels: { jawOpen: [] }, frame: 33 }]);
    edits.mockClear();
    now.selected = ["eyeBlinkLeft"];
    insertHere(holder);
    expect(edits).not.toHaveBeenCalled();
  });
  it("a layer takes keys on channels that hold none, as far as there are such channels", () => {
    holder.takesKeys = true;
    now.hand = {};
    now.selected = ["jawOpen", "gone"];
    insertHere(holder);
    expect(asked()[1]).toMatchObject({ do: "insert", channels: { jawOpen: [] } });
    useKeys.setState({ copied: { browInnerUp: [[20, 0.5, 0, 0, "flat"]], gone: [[1, 0, 0, 0, "flat"]] } });
    pasteHere(holder);
    expect(asked()[1]).toMatchObject({ do: "paste", channels: { browInnerUp: [] } });
  });
  it("keys are copied, and pasted at the playhead onto channels that hold keys", () => {
    useKeys.setState({ chosen: { jawOpen: [20] }, offset: 0.1 });
    expect(copyChosen(holder)).toBe(1);
    clock.seekFrame(40);
    pasteHere(holder);
    expect(asked()).toEqual([
      "paste keys",
      { do: "paste", channels: { jawOpen: [] }, copied: { jawOpen: [[20, 0.5, 0, 0, "flat"]] }, frame: 40, value: 0.1 },
    ]);
    edits.mockClear();
    now.hand = {};
    pasteHere(holder);
    expect(edits).not.toHaveBeenCalled();
  });
  it("the playhead goes from key to key of what is shown", () => {
    clock.seekFrame(12);
    expect(jumpKey(holder, false)).toBe(true);
    expect(clock.frame).toBe(15);
    expect(jumpKey(holder, false)).toBe(true);
    expect(clock.frame).toBe(20);
    expect(jumpKey(holder, false)).toBe(false);
    expect(jumpKey(holder, true)).toBe(true);
    expect(clock.frame).toBe(15);
  });
});
