import { beforeEach, describe, expect, it, vi } from "vitest";
import type { KeyEdit } from "../api/client";
import { keep, ofChosen, show } from "../keys/edit";
import { useKeys, type Chosen } from "../keys/keys";
import { pyramid } from "../timekit/decimate";
import { testStage } from "../timekit/testStage";
import type { Curve, CurveView } from "../timekit/tracks/curves";
import { NO_KEYS, type Row } from "../timekit/tracks/keys";
import type { TakeSession } from "../workspace/session";
import { beginGesture, curveUnder, insertAt, keyUnder } from "./keyTools";

vi.mock("../keys/edit", () => ({
  keep: vi.fn(() => Promise.resolve()),
  show: vi.fn(),
  ofChosen: vi.fn((_session: unknown, what: string, more: object): KeyEdit => ({
    do: what,
    channels: { jawOpen: ["k"] },
    ...more,
  })),
}));

const session = { id: "open" } as unknown as TakeSession;
const FRAMES = 101;
/** 10 pixels a frame, 200 pixels from 0 at 304 to 1 at 104. */
const x = (frame: number) => frame * 10;
const y = (value: number) => 304 - value * 200;
const press = (frame: number, value: number, adding = false) => ({ x: x(frame), y: y(value), adding });
const row = (frame: number, value: number, kind = "smooth", slope = 0): Row => [frame, value, slope, slope, kind];

function flat(name: string, value: number, scale = 1): Curve {
  const made = pyramid(new Float32Array(FRAMES).fill(value * scale), 1, 0);
  return { name, region: "jaw", colour: "#c78fd0", dashed: false, scale, tidied: made, raw: made };
}

const jaw = flat("jawOpen", 0.5);
const yaw = flat("headYaw", 0.2, 30);

function view(rows: Row[], more: Partial<CurveView> = {}): CurveView {
  const chosen = useKeys.getState().chosen;
  return {
    ...testStage({ frames: FRAMES }),
    ...NO_KEYS,
    band: { top: 100, height: 208 },
    value: { low: 0, high: 1, top: 104, bottom: 304 },
    curves: [jaw, yaw],
    keys: [{ curve: jaw, mode: "keys", rows }],
    isChosen: (channel, frame) => chosen[channel]?.includes(frame) ?? false,
    chosenCount: Object.values(chosen).flat().length,
    ...more,
  };
}

const chosen = () => useKeys.getState().chosen;
const kept = () => vi.mocked(keep).mock.calls.at(-1)!.slice(1) as [string, KeyEdit, Chosen];

beforeEach(() => {
  vi.clearAllMocks();
  useKeys.setState({ tool: "keys", chosen: {}, size: 12, snap: true, drag: null });
});

describe("what is under the pointer", () => {
  it("is the key within eight pixels", () => {
    const seen = view([row(10, 0.5), row(40, 0.5)]);
    expect(keyUnder(seen, { x: x(10) + 5, y: y(0.5) + 5 })?.row[0]).toBe(10);
    expect(keyUnder(seen, { x: x(10) + 7, y: y(0.5) + 7 })).toBeNull();
  });
  it("is the curve nearest in value, each on its own scale", () => {
    expect(curveUnder(view([]), { x: x(5), y: y(0.55) })?.name).toBe("jawOpen");
    expect(curveUnder(view([]), { x: x(5), y: y(0.1) })?.name).toBe("headYaw");
    expect(curveUnder(view([], { curves: [] }), { x: 0, y: 0 })).toBeNull();
  });
});

describe("a key in hand", () => {
  const drag = (rows: Row[], from: ReturnType<typeof press>, to: ReturnType<typeof press>) => {
    const gesture = beginGesture(session, "keys", view(rows), from)!;
    gesture.move(to);
    gesture.release(to);
  };

  it("is chosen by a click, and nothing is edited", () => {
    drag([row(10, 0.5)], press(10, 0.5), press(10.1, 0.5));
    expect(chosen()).toEqual({ jawOpen: [10] });
    expect(keep).not.toHaveBeenCalled();
    expect(useKeys.getState().drag).toBeNull();
  });

  it("is shown while it is dragged, and kept where it is let go, on whole frames", () => {
    drag([row(10, 0.5)], press(10, 0.5), press(14.4, 0.7));
    expect(show).toHaveBeenCalledOnce();
    const [label, edit, after] = kept();
    expect(label).toBe("move keys");
    expect(edit).toMatchObject({ do: "move", frames: 4, snap: true });
    expect(vi.mocked(keep).mock.calls[0]![0]).toBe(session);
    expect(edit.value as number).toBeCloseTo(0.2);
    expect(after).toEqual({ jawOpen: [14] });
  });

  it("goes between frames where it is not held to them", () => {
    useKeys.setState({ snap: false });
    drag([row(10, 0.5)], press(10, 0.5), press(14.4, 0.5));
    expect(kept()[1]).toMatchObject({ snap: false });
    expect(kept()[1].frames as number).toBeCloseTo(4.4);
  });

  it("keeps to one direction with Shift", () => {
    drag([row(10, 0.5)], press(10, 0.5), press(20, 0.6, true));
    expect(kept()[1]).toMatchObject({ frames: 10, value: 0 });
    drag([row(10, 0.5)], press(10, 0.5), press(11, 0.9, true));
    expect(kept()[1]).toMatchObject({ frames: 0 });
  });

  it("takes those along that were chosen with it", () => {
    useKeys.setState({ chosen: { jawOpen: [10, 40], browInnerUp: [7] } });
    drag([row(10, 0.5), row(40, 0.5)], press(10, 0.5), press(12, 0.5));
    expect(kept()[2]).toEqual({ jawOpen: [12, 42], browInnerUp: [9] });
  });

  it("is added to them, or taken away, with Shift", () => {
    useKeys.setState({ chosen: { jawOpen: [40] } });
    beginGesture(session, "keys", view([row(10, 0.5), row(40, 0.5)]), press(10, 0.5, true));
    expect(chosen()).toEqual({ jawOpen: [40, 10] });
    beginGesture(session, "keys", view([row(10, 0.5), row(40, 0.5)]), press(40, 0.5, true));
    expect(chosen()).toEqual({ jawOpen: [10] });
  });
});

describe("a tangent in hand", () => {
  // The handle is 34 pixels from its key: 3.4 frames.
  const handle = (side: -1 | 1) => press(10 + side * 3.4, 0.5);
  const turned = (to: ReturnType<typeof press>, side: -1 | 1 = 1) => {
    useKeys.setState({ chosen: { jawOpen: [10] } });
    const gesture = beginGesture(session, "keys", view([row(10, 0.5, "free")]), handle(side))!;
    gesture.move(to);
    gesture.release(to);
    return kept();
  };

  it("turns both sides in line", () => {
    const [label, edit] = turned(press(15, 0.6));
    expect(label).toBe("turn tangent");
    expect(edit.do).toBe("slope");
    expect(edit.before as number).toBeCloseTo(0.02);
    expect(edit.after as number).toBeCloseTo(0.02);
  });

  it("turns one side alone with Shift", () => {
    expect(turned(press(15, 0.6, true))[1]).not.toHaveProperty("before");
    expect(turned(press(5, 0.6, true), -1)[1]).not.toHaveProperty("after");
  });

  it("does not go over to the other side of its key", () => {
    turned(press(15, 0.6));
    vi.mocked(keep).mockClear();
    const gesture = beginGesture(session, "keys", view([row(10, 0.5, "free")]), handle(1))!;
    gesture.release(press(5, 0.6));
    expect(keep).not.toHaveBeenCalled();
  });

  it("is out of reach for other kinds and for many chosen keys", () => {
    useKeys.setState({ chosen: { jawOpen: [10] } });
    beginGesture(session, "keys", view([row(10, 0.5, "flat")]), handle(1))!.release(press(15, 0.6));
    useKeys.setState({ chosen: { jawOpen: [10, 20, 30, 40] } });
    beginGesture(session, "keys", view([row(10, 0.5, "free")]), handle(1))!.release(press(15, 0.6));
    expect(vi.mocked(ofChosen).mock.calls.filter(([, what]) => what === "slope")).toHaveLength(0);
  });
});

describe("choosing", () => {
  const rows = [row(10, 0.5), row(20, 0.9), row(30, 0.5)];
  const pull = (tool: "keys" | "lasso", way: ReturnType<typeof press>[]) => {
    const gesture = beginGesture(session, tool, view(rows), way[0]!)!;
    way.slice(1).forEach((p) => gesture.move(p));
    gesture.release(way.at(-1)!);
    return gesture;
  };

  it("takes the keys in a box", () => {
    pull("keys", [press(5, 0.6), press(35, 0.4)]);
    expect(chosen()).toEqual({ jawOpen: [10, 30] });
  });
  it("adds a box to what was chosen with Shift", () => {
    useKeys.setState({ chosen: { jawOpen: [20] } });
    pull("keys", [press(5, 0.6, true), press(15, 0.4, true)]);
    expect(chosen()).toEqual({ jawOpen: [20, 10] });
  });
  it("takes the keys in a lasso, and draws it closed", () => {
    const gesture = pull("lasso", [press(15, 0.4), press(15, 1), press(35, 1), press(35, 0.4), press(25, 0.4)]);
    expect(chosen()).toEqual({ jawOpen: [20, 30] });
    expect(gesture.closed).toBe(true);
    expect(gesture.stroke()).toHaveLength(5);
  });
  it("lets go of all keys by a click beside them", () => {
    useKeys.setState({ chosen: { jawOpen: [20] } });
    pull("keys", [press(50, 0.2), press(50, 0.2)]);
    expect(chosen()).toEqual({});
  });
});

describe("drawing and brushes", () => {
  it("draw the nearest curve from press to release, held to the take", () => {
    const gesture = beginGesture(session, "draw", view([]), press(-3, 0.25))!;
    gesture.move(press(10, 0.25));
    gesture.release(press(10, 0.25));
    const [label, edit] = kept();
    expect(label).toBe("draw a curve");
    expect(edit.channels).toEqual({ headYaw: [] });
    const points = edit.points as [number, number][];
    expect(points.map((p) => p[0])).toEqual([0, 10]);
    expect(points[0]![1]).toBeCloseTo(7.5); // a quarter of an angle's thirty degrees
  });
  it("keep nothing of a stroke within one frame", () => {
    beginGesture(session, "draw", view([]), press(10, 0.5))!.release(press(10, 0.9));
    expect(keep).not.toHaveBeenCalled();
  });
  it("send no more than two thousand points", () => {
    const gesture = beginGesture(session, "draw", view([]), press(0, 0.5))!;
    for (let i = 0; i < 9000; i++) gesture.move(press(i / 90, 0.5));
    gesture.release(press(100, 0.5));
    expect((kept()[1].points as unknown[]).length).toBeLessThanOrEqual(2000);
  });
  it("smooth the stronger the farther the pointer goes", () => {
    const gesture = beginGesture(session, "smooth", view([]), press(50, 0.5))!;
    gesture.move(press(50, 0.5));
    gesture.move(press(62, 0.5));
    const amounts = vi.mocked(show).mock.calls.map(([, edit]) => edit.amount as number);
    expect(amounts[0]).toBeCloseTo(0.4);
    expect(amounts[1]).toBe(1);
  });
  it("pull a curve to the pointer about the pressed frame", () => {
    const gesture = beginGesture(session, "pull", view([]), press(50.2, 0.5))!;
    gesture.release(press(60, 0.8));
    const [label, edit, after] = kept();
    expect([label, edit.centre, edit.size, edit.amount, after]).toEqual(["pull the curve", 50, 12, 1, {}]);
    expect(edit.value as number).toBeCloseTo(0.8);
  });
  it("do nothing with the scrubbing tool, or where no curve is", () => {
    expect(beginGesture(session, "scrub", view([]), press(1, 0.5))).toBeNull();
    for (const tool of ["draw", "smooth", "pull"] as const)
      expect(beginGesture(session, tool, view([], { curves: [], keys: [] }), press(1, 0.5))).toBeNull();
  });
});

describe("a double click", () => {
  it("inserts a key on the curve that holds keys", () => {
    expect(insertAt(session, view([row(10, 0.5)]), { x: x(25), y: y(0.5) })).toBe(true);
    expect(kept()).toEqual(["insert a key", { do: "insert", channels: { jawOpen: [] }, frame: 25 }, { jawOpen: [25] }]);
  });
  it("does nothing on a curve without keys", () => {
    expect(insertAt(session, view([row(10, 0.5)]), { x: x(25), y: y(0.2) })).toBe(false);
    expect(keep).not.toHaveBeenCalled();
  });
});
