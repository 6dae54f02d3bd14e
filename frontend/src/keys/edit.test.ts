import { beforeEach, describe, expect, it, vi } from "vitest";
import { api, type TakeDoc } from "../api/client";
import { clock } from "../playback/clock";
import type { TakeSession } from "../workspace/session";
import { copyChosen, insertHere, jumpKey, keep, nudge, ofChosen, ofShown, pasteHere, show } from "./edit";
import { useKeys } from "./keys";

const { now } = vi.hoisted(() => ({
  now: { hand: {} as Record<string, unknown>, selected: [] as string[], channels: ["jawOpen", "browInnerUp"] },
}));
vi.mock("../workspace/workspace", () => ({ useWorkspace: { getState: () => ({ selected: now.selected }) } }));

const change = vi.fn((make: (take: TakeDoc) => Promise<unknown>) => make({ id: "take", version: 7 } as TakeDoc));
const preview = vi.fn();
const fake = {
  closed: false,
  get now() {
    return { opened: { take: { body: { hand: now.hand } } }, curves: { channels: now.channels } };
  },
  change,
  preview,
};
const session = fake as unknown as TakeSession;
const edits = vi.spyOn(api, "editKeys");

beforeEach(() => {
  vi.clearAllMocks();
  edits.mockResolvedValue({ document: { id: "take" } as TakeDoc, report: {} });
  now.hand = {
    jawOpen: { mode: "keys", keys: { b: [20, 0.5, 0, 0, "flat"], a: [10, 0.2, 0, 0, "flat"] } },
    browInnerUp: { mode: "offset", keys: { c: [15, 0, 0, 0, "flat"] } },
  };
  now.selected = ["jawOpen", "browInnerUp", "gone"];
  useKeys.setState({ chosen: {}, copied: {}, drag: { frames: 1, value: 0 }, offset: 0, snap: true });
  clock.load(10, 60);
});

const asked = () => edits.mock.calls.at(-1)!.slice(2) as [string, Record<string, unknown>];

describe("an edit of keys", () => {
  it("goes to the server with the take's version, then the drag is over", async () => {
    await keep(session, "move keys", { do: "move", channels: { jawOpen: ["a"] } }, { jawOpen: [12] });
    expect(edits).toHaveBeenCalledWith("take", 7, "move keys", { do: "move", channels: { jawOpen: ["a"] } });
    expect(change).toHaveBeenCalledOnce();
    expect(useKeys.getState()).toMatchObject({ drag: null, chosen: { jawOpen: [12] } });
  });
  it("lands on its own take after another was opened, and leaves what is chosen there alone", async () => {
    useKeys.setState({ chosen: { browInnerUp: [3] }, drag: null });
    fake.closed = true;
    await keep(session, "move keys", { do: "move", channels: { jawOpen: ["a"] } }, { jawOpen: [12] });
    fake.closed = false;
    expect(edits).toHaveBeenCalledOnce();
    expect(useKeys.getState().chosen).toEqual({ browInnerUp: [3] });
  });
  it("is made of nothing where nothing is open", async () => {
    await keep(null, "move keys", { do: "move", channels: { jawOpen: ["a"] } });
    expect(edits).not.toHaveBeenCalled();
    expect([ofChosen(null, "delete"), ofShown(null, "reduce"), jumpKey(null, false)]).toEqual([null, null, false]);
  });
  it("is shown without being kept", () => {
    show(session, { do: "move", channels: {} });
    expect(preview).toHaveBeenCalledWith({ edit: { do: "move", channels: {} } });
    expect(edits).not.toHaveBeenCalled();
  });
  it("names chosen keys by their ids, and is none without any", () => {
    expect(ofChosen(session, "delete")).toBeNull();
    useKeys.setState({ chosen: { jawOpen: [20], browInnerUp: [99] } });
    expect(ofChosen(session, "delete")).toEqual({ do: "delete", channels: { jawOpen: ["b"] } });
  });
  it("names the channels that are shown and that the take has", () => {
    expect(ofShown(session, "reduce", { tolerance: 0.01 })).toEqual({
      do: "reduce",
      channels: { jawOpen: [], browInnerUp: [] },
      tolerance: 0.01,
    });
    now.selected = ["gone"];
    expect(ofShown(session, "reduce")).toBeNull();
  });
});

describe("by keyboard", () => {
  it("chosen keys are nudged and stay chosen where they went", async () => {
    useKeys.setState({ chosen: { jawOpen: [10, 20] } });
    nudge(session, 1, 0);
    await vi.waitFor(() => expect(useKeys.getState().chosen).toEqual({ jawOpen: [11, 21] }));
    expect(asked()).toEqual([
      "nudge keys",
      { do: "move", channels: { jawOpen: ["a", "b"] }, frames: 1, value: 0, snap: true },
    ]);
  });
  it("keys are inserted at the playhead on the shown channels that hold keys", () => {
    now.selected = ["jawOpen", "eyeBlinkLeft"];
    clock.seekFrame(33);
    insertHere(session);
    expect(asked()).toEqual(["insert keys", { do: "insert", channels: { jawOpen: [] }, frame: 33 }]);
    edits.mockClear();
    now.selected = ["eyeBlinkLeft"];
    insertHere(session);
    expect(edits).not.toHaveBeenCalled();
  });
  it("keys are copied, and pasted at the playhead onto channels that hold keys", () => {
    useKeys.setState({ chosen: { jawOpen: [20] }, offset: 0.1 });
    expect(copyChosen(session)).toBe(1);
    clock.seekFrame(40);
    pasteHere(session);
    expect(asked()).toEqual([
      "paste keys",
      { do: "paste", channels: { jawOpen: [] }, copied: { jawOpen: [[20, 0.5, 0, 0, "flat"]] }, frame: 40, value: 0.1 },
    ]);
    edits.mockClear();
    now.hand = {};
    pasteHere(session);
    expect(edits).not.toHaveBeenCalled();
  });
  it("the playhead goes from key to key of what is shown", () => {
    clock.seekFrame(12);
    expect(jumpKey(session, false)).toBe(true);
    expect(clock.frame).toBe(15);
    expect(jumpKey(session, false)).toBe(true);
    expect(clock.frame).toBe(20);
    expect(jumpKey(session, false)).toBe(false);
    expect(jumpKey(session, true)).toBe(true);
    expect(clock.frame).toBe(15);
  });
});
