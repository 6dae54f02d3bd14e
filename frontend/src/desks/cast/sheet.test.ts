import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { edit, preview, tryTarget } from "../../workspace/workspace";
import { playShapes, stopPlaying, swell, usePlayed } from "./playShapes";
import { dragNumber, holdOrLetGo, numberChange, put, putNumber, response, type Sheet } from "./sheet";

const { now } = vi.hoisted(() => ({ now: { opened: { cast: {} } as { cast: object | null } } }));
vi.mock("../../workspace/workspace", () => ({
  edit: vi.fn(),
  preview: vi.fn(),
  tryTarget: vi.fn(),
  sessionState: () => now,
  useOpen: () => now,
}));

beforeEach(() => {
  vi.clearAllMocks();
  now.opened = { cast: { body: { contacts: { off: {} } } } };
});

describe("a number of the sheet", () => {
  it("is its own leaf, and is taken out where it says nothing", () => {
    expect(numberChange("regionStrength", "lips", 0.8, 1)).toEqual({ path: "regionStrength/lips", value: 0.8 });
    expect(numberChange("regionStrength", "lips", 1, 1)).toEqual({ path: "regionStrength/lips", remove: true });
  });
  it("has a path whatever its target is called", () => {
    expect(numberChange("shapeOffset", "a/b~c", 1, 0).path).toBe("shapeOffset/a~1b~0c");
  });
  it("is kept, or only shown while it is dragged", () => {
    void putNumber("lips weaker", "regionStrength", "lips", 0.8, 1);
    expect(edit).toHaveBeenCalledWith("cast", "lips weaker", [{ path: "regionStrength/lips", value: 0.8 }]);
    dragNumber("regionStrength", "lips", 0.7);
    expect(preview).toHaveBeenCalledWith({ cast: [{ path: "regionStrength/lips", value: 0.7 }] });
    expect(edit).toHaveBeenCalledOnce();
  });
});

describe("several changes of the sheet", () => {
  it("are the leaves that differ, never the whole table", () => {
    const shown = { regionStrength: { lips: 0.8, jaw: 0.9 } } as unknown as Sheet;
    void put(shown, "as measured", { regionStrength: { lips: 0.8, jaw: 1.1, brows: 1.2 } } as never);
    const [, , changes] = vi.mocked(edit).mock.calls[0]!;
    expect(changes).toEqual(
      expect.arrayContaining([
        { path: "regionStrength/jaw", value: 1.1 },
        { path: "regionStrength/brows", value: 1.2 },
      ]),
    );
    expect(changes).toHaveLength(2);
  });
});

describe("a held contact", () => {
  const span = (on: boolean) => ({ key: "lips 12", kind: "lips", first: 12, last: 20, on }) as never;
  it("is let go and held again by its own leaf", () => {
    holdOrLetGo(span(true));
    expect(edit).toHaveBeenLastCalledWith("take", "let go: lips 12", [{ path: "letGo/lips 12", value: true }]);
    holdOrLetGo(span(false));
    expect(edit).toHaveBeenLastCalledWith("take", "hold: lips 12", [{ path: "letGo/lips 12", remove: true }]);
  });
  it("that an earlier release let go in the sheet is held again there", () => {
    now.opened = { cast: { body: { contacts: { off: { "lips 12": true } } } } };
    holdOrLetGo(span(false));
    expect(edit).toHaveBeenLastCalledWith("cast", "hold: lips 12", [{ path: "contacts/off/lips 12", remove: true }]);
  });
  it("needs a character", () => {
    now.opened = { cast: null };
    holdOrLetGo(span(true));
    expect(edit).not.toHaveBeenCalled();
  });
});

describe("the response of a channel", () => {
  it("keeps its ends, and bends between them", () => {
    for (const bend of [-1, 0, 1])
      expect([response(0, bend), response(1, bend), response(-1, bend)]).toEqual([0, 1, -1]);
    expect(response(0.5, 0)).toBe(0.5);
    expect(response(0.5, 1)).toBeGreaterThan(0.5);
    expect(response(0.5, -1)).toBeLessThan(0.5);
  });
});

describe("playing targets", () => {
  let frames: (() => void)[];
  let time: number;
  const pass = (seconds: number) => {
    time += seconds * 1000;
    frames.splice(0).forEach((f) => f());
  };
  beforeEach(() => {
    frames = [];
    time = 0;
    vi.stubGlobal("requestAnimationFrame", (f: () => void) => frames.push(f));
    vi.spyOn(performance, "now").mockImplementation(() => time);
  });
  afterEach(() => {
    stopPlaying();
    vi.unstubAllGlobals();
    vi.restoreAllMocks();
  });

  it("goes softly there and back", () => {
    expect([swell(0), swell(0.5), swell(1)].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([0, 1, 0]);
    expect(swell(2)).toBeCloseTo(0);
  });
  it("moves one after the other, and leaves each at rest", () => {
    playShapes(["smile", "frown"]);
    pass(0.45);
    expect(usePlayed.getState().target).toBe("smile");
    expect(vi.mocked(tryTarget).mock.lastCall![1]).toBeCloseTo(1);
    pass(0.9);
    expect(tryTarget).toHaveBeenCalledWith("smile", null);
    expect(usePlayed.getState().target).toBe("frown");
    pass(0.9);
    expect(tryTarget).toHaveBeenLastCalledWith("frown", null);
    expect(usePlayed.getState().target).toBeNull();
    expect(frames).toHaveLength(0);
  });
  it("begins anew where others are played, and the older run ends", () => {
    playShapes(["smile"]);
    playShapes(["frown"]);
    expect(tryTarget).toHaveBeenCalledWith("smile", null);
    pass(0.1);
    expect(usePlayed.getState().target).toBe("frown");
    expect(frames).toHaveLength(1);
  });
});
