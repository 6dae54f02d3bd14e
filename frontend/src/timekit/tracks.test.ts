import { describe, expect, it, vi } from "vitest";
import { pyramid } from "./decimate";
import { drawPlayhead, drawRange } from "./ground";
import { PALETTE, testStage, type Call } from "./testStage";
import { curveTrack, type Curve, type CurveView } from "./tracks/curves";
import { flagTrack, type Flag } from "./tracks/flags";
import { HANDLE, handlesOf, NO_KEYS, placeOf, type KeyedCurve, type Row } from "./tracks/keys";
import { spanAt, spanTrack, type RowSpan } from "./tracks/spans";
import { standAt, standTrack, type StandRows } from "./tracks/stands";
import { waveTrack } from "./tracks/wave";

const at = (x: number, y = 0) => ({ x, y, adding: false });
const of = (calls: Call[], what: string) => calls.filter((c) => c.what === what);
const BAND = { top: 100, height: 208 }; // values 0..1 on 200 pixels

function curve(values: number[], more: Partial<Curve> = {}): Curve {
  const made = pyramid(Float32Array.from(values), 1, 0);
  return {
    name: "jawOpen",
    region: "jaw",
    colour: "#c78fd0",
    dashed: false,
    scale: 1,
    tidied: made,
    raw: made,
    ...more,
  };
}

describe("flags", () => {
  const flag = (key: string, from: number, to: number, more: Partial<Flag> = {}): Flag => ({
    key,
    from,
    to,
    severity: 0.5,
    colour: key,
    chosen: false,
    whole: false,
    ...more,
  });
  const stage = testStage();

  it("are the taller the worse, and end at the strip's foot", () => {
    flagTrack([], [flag("mild", 10, 19, { severity: 0 }), flag("bad", 30, 39, { severity: 1 })], () => {}).draw(stage, {
      top: 20,
      height: 10,
    });
    const [mild, bad] = of(stage.calls, "fillRect");
    expect(mild).toMatchObject({ args: [100, 26, 100, 4], fill: "mild" });
    expect(bad).toMatchObject({ args: [300, 20, 100, 10], fill: "bad" });
  });

  it("are left out where they are out of sight", () => {
    const zoomed = testStage({ axis: { from: 50, to: 60, width: 1000 } });
    flagTrack([{ from: 0, to: 3, height: 1, tone: "accent" }], [flag("a", 0, 9)], () => {}).draw(zoomed, {
      top: 0,
      height: 10,
    });
    expect(of(zoomed.calls, "fillRect")).toHaveLength(0);
  });

  it("give the pressed one, the shortest where two lie over each other", () => {
    const pressed = vi.fn();
    const track = flagTrack([], [flag("long", 0, 60), flag("short", 20, 24)], pressed);
    expect(track.press!(stage, { top: 0, height: 10 }, at(220))).toBe("taken");
    expect(track.press!(stage, { top: 0, height: 10 }, at(400))).toBe("taken");
    expect(track.press!(stage, { top: 0, height: 10 }, at(900))).toBeNull();
    expect(pressed.mock.calls).toEqual([["short"], ["long"]]);
  });

  it("shade all tracks below where one is chosen", () => {
    const drawn = testStage();
    flagTrack([], [flag("a", 10, 19, { chosen: true })], () => {}).draw(drawn, { top: 20, height: 10 });
    expect(of(drawn.calls, "fillRect").at(-1)).toMatchObject({ args: [100, 30, 100, 270], fill: "paper", alpha: 0.1 });
  });
});

describe("spans", () => {
  const spans: RowSpan[] = [
    { key: "lips", row: 0, first: 10, last: 19, on: true },
    { key: "lids", row: 1, first: 10, last: 12, on: false },
  ];
  it("are filled where they are on, outlined where they are off", () => {
    const stage = testStage();
    spanTrack(2, spans, [{ row: 0, first: 15, last: 16 }], () => {}).draw(stage, { top: 50, height: 22 });
    expect(of(stage.calls, "fillRect").map((c) => c.args)).toEqual([
      [100, 50, 100, 7],
      [150, 57, 20, 2],
    ]);
    expect(of(stage.calls, "strokeRect")[0]!.args).toEqual([100.5, 60.5, 29, 6]);
  });
  it("are found by row and frame", () => {
    const { axis } = testStage();
    expect(spanAt(axis, spans, 150, 3)?.key).toBe("lips");
    expect(spanAt(axis, spans, 110, 13)?.key).toBe("lids");
    expect(spanAt(axis, spans, 150, 13)).toBeNull();
  });
  it("are pressed by key", () => {
    const pressed = vi.fn();
    const track = spanTrack(2, spans, [], pressed);
    expect(track.press!(testStage(), { top: 50, height: 22 }, at(150, 52))).toBe("taken");
    expect(pressed).toHaveBeenCalledWith("lips");
  });
});

describe("contacts", () => {
  const rows = (more: Partial<StandRows> = {}): StandRows => ({
    rows: ["left foot", "right foot"].map((word) => ({ word, does: "stands", held: true })),
    spans: [
      { key: "a", row: 0, first: 10, last: 29, byHand: true },
      { key: "b", row: 1, first: 40, last: 41, byHand: false },
    ],
    chosen: "a",
    onChoose: vi.fn(),
    onDrag: vi.fn(),
    onDrop: vi.fn(),
    onAdd: vi.fn(),
    ...more,
  });
  const BAND = { top: 50, height: 29 };

  it("are full where they are held, marked where they were set by hand, framed where they are chosen", () => {
    const stage = testStage();
    standTrack(rows()).draw(stage, BAND);
    expect(of(stage.calls, "fillRect").map((c) => [c.args, c.fill])).toEqual([
      [[100, 51, 200, 9], "paper"],
      [[100, 60, 200, 2], "accent"],
      [[400, 64, 20, 9], "paper"],
    ]);
    expect(of(stage.calls, "strokeRect").map((c) => c.stroke)).toEqual(["accent"]);
    const free = testStage();
    const letBe = rows().rows.map((row) => ({ ...row, held: false }));
    standTrack(rows({ rows: letBe, chosen: "" })).draw(free, BAND);
    expect(of(free.calls, "strokeRect")).toHaveLength(2);
  });
  it("are drawn longer by an edge", () => {
    const made = rows();
    const gesture = standTrack(made).press!(testStage(), BAND, at(302, 55));
    if (!gesture || gesture === "taken") throw new Error("nothing to drag");
    gesture.move(at(352, 55));
    gesture.release(at(352, 55));
    expect(made.onChoose).toHaveBeenCalledWith("a");
    expect(made.onDrag).toHaveBeenCalledWith("a", "last", 34);
    expect(made.onDrop).toHaveBeenCalledOnce();
  });
  it("are only chosen in their middle, and a press beside them is the deck's", () => {
    const made = rows();
    expect(standTrack(made).press!(testStage(), BAND, at(200, 55))).toBe("taken");
    expect(standTrack(made).press!(testStage(), BAND, at(700, 55))).toBeNull();
    expect(made.onDrag).not.toHaveBeenCalled();
  });
  it("are added where there is none by a double click", () => {
    const made = rows();
    standTrack(made).twice!(testStage(), BAND, at(700, 66));
    standTrack(made).twice!(testStage(), BAND, at(200, 55));
    expect(made.onAdd).toHaveBeenCalledExactlyOnceWith(1, 70);
  });
  it("say what a place is for", () => {
    const say = (x: number, y: number) => standTrack(rows()).say!(testStage(), BAND, { x, y });
    expect(say(200, 55)).toBe("left foot stands, frames 10 to 29");
    expect(say(101, 55)).toBe("left foot: drag the edge");
    expect(say(700, 66)).toContain("double click");
    expect(standAt(testStage().axis, rows().spans, 96, 5)?.edge).toBe("first");
  });
});

describe("the wave", () => {
  const peaks = { data: Float32Array.from({ length: 200 }, (_, i) => (i % 2 ? 0.5 : -0.5)), rate: 100 }; // a second

  it("lies where its offset puts it", () => {
    const stage = testStage();
    waveTrack({ peaks, offset: () => 0.5 }).draw(stage, { top: 0, height: 46 });
    const columns = of(stage.calls, "rect").map((c) => c.args[0] as number);
    // A second of sound from half a second on is frames 25 to 75, pixels 250 to 750.
    expect(Math.min(...columns)).toBeGreaterThanOrEqual(245);
    expect(Math.max(...columns)).toBeLessThan(751);
    expect(of(stage.calls, "fillRect")[0]).toMatchObject({ args: [250, 4, 2, 38], fill: "accent" });
  });

  it("says so where there is no sound", () => {
    const stage = testStage();
    waveTrack({ peaks: null, offset: () => 0 }).draw(stage, { top: 0, height: 46 });
    expect(of(stage.calls, "fillText")[0]!.args[0]).toBe("no sound in this take");
  });

  it("is dragged where it may be, to the millisecond", () => {
    const [moved, dropped] = [vi.fn(), vi.fn()];
    const track = waveTrack({ peaks, offset: () => 0.5, onMove: moved, onDrop: dropped });
    const gesture = track.press!(testStage(), { top: 0, height: 46 }, at(300));
    if (!gesture || gesture === "taken") throw new Error("nothing to drag");
    gesture.move(at(350));
    gesture.release(at(333));
    expect(moved).toHaveBeenLastCalledWith(0.6);
    expect(dropped).toHaveBeenLastCalledWith(0.566);
    expect(waveTrack({ peaks, offset: () => 0 }).press!(testStage(), { top: 0, height: 46 }, at(300))).toBeNull();
  });
});

describe("curves", () => {
  const track = (curves: Curve[], more = {}) =>
    curveTrack({ curves, range: { low: 0, high: 1 }, comparing: false, rawName: "raw", keys: () => NO_KEYS, ...more });

  it("are a line through frames, broken where there is a gap", () => {
    const stage = testStage();
    track([curve([0, 0.5, NaN, 1, 1])]).draw(stage, BAND);
    const begun = of(stage.calls, "moveTo").filter((c) => c.stroke === "#c78fd0");
    const gone = of(stage.calls, "lineTo").filter((c) => c.stroke === "#c78fd0");
    expect(begun.map((c) => c.args)).toEqual([
      [0, 304],
      [30, 104],
    ]);
    expect(gone.map((c) => c.args)).toEqual([
      [10, 204],
      [40, 104],
    ]);
  });

  it("draw angles on the scale of weights", () => {
    const stage = testStage();
    track([curve([15, 15], { scale: 30 })]).draw(stage, BAND);
    expect(of(stage.calls, "moveTo").find((c) => c.stroke === "#c78fd0")!.args[1]).toBeCloseTo(204);
  });

  it("shade what is between raw and tidied while comparing", () => {
    const raw = pyramid(Float32Array.from([0, 0, 0]), 1, 0);
    const stage = testStage();
    track([curve([1, 1, 1], { raw })], { comparing: true }).draw(stage, BAND);
    const shade = of(stage.calls, "fill").find((c) => c.fill === "#c78fd0")!;
    expect(shade.alpha).toBeCloseTo(0.22);
    const plain = testStage();
    track([curve([1, 1, 1], { raw })]).draw(plain, BAND);
    expect(of(plain.calls, "fill").some((c) => c.fill === "#c78fd0")).toBe(false);
  });

  it("say name, values and frame of the one under the pointer", () => {
    const raw = pyramid(Float32Array.from([0, 0.25, NaN]), 1, 0);
    const low = curve([0, 0, 0], { name: "mouthClose" });
    const shown = track([curve([0.9, 0.9, 0.9], { raw }), low], { rawName: "other take" });
    expect(shown.say!(testStage(), BAND, { x: 10, y: 120 })).toBe("jawOpen  0.900  (other take 0.250)  frame 1");
    expect(shown.say!(testStage(), BAND, { x: 20, y: 120 })).toContain("other take gap");
    expect(shown.say!(testStage(), BAND, { x: 10, y: 304 })).toContain("mouthClose");
  });

  it("give presses with where values lie", () => {
    const seen = vi.fn<(view: CurveView) => null>(() => null);
    track([curve([0, 0])], { onPress: seen }).press!(testStage(), BAND, at(5, 150));
    expect(seen.mock.calls[0]![0].value).toEqual({ low: 0, high: 1, top: 104, bottom: 304 });
  });
});

describe("keys on curves", () => {
  const row = (frame: number, value: number, kind = "flat", slope = 0): Row => [frame, value, slope, slope, kind];
  const shown = (held: KeyedCurve, more = {}) =>
    curveTrack({
      curves: [held.curve],
      range: { low: 0, high: 1 },
      comparing: false,
      rawName: "raw",
      keys: () => ({ ...NO_KEYS, keys: [held], ...more }),
    });
  const view = (held: KeyedCurve): CurveView => ({
    ...testStage(),
    ...NO_KEYS,
    keys: [held],
    band: BAND,
    curves: [held.curve],
    value: { low: 0, high: 1, top: 104, bottom: 304 },
  });

  it("lie at their value, a correction's on the curve that it corrects", () => {
    const keys: KeyedCurve = { curve: curve([0.2, 0.6, 0.6]), mode: "keys", rows: [row(1, 0.5)] };
    expect(placeOf(view(keys), keys, keys.rows[0]!)).toEqual({ x: 10, y: 204 });
    const offset: KeyedCurve = { ...keys, mode: "offset" };
    expect(placeOf(view(offset), offset, offset.rows[0]!).y).toBeCloseTo(184);
  });

  it("have tangents that lie along their slope", () => {
    const held: KeyedCurve = { curve: curve([0, 1]), mode: "keys", rows: [row(50, 0.5, "free", 0.01)] };
    const [before, after] = handlesOf(view(held), held, held.rows[0]!);
    expect([before!.x, after!.x]).toEqual([500 - HANDLE, 500 + HANDLE]);
    // 34 pixels are 3.4 frames: the tangent rises by 0.034, that is 6.8 pixels.
    expect(before!.y).toBeCloseTo(204 + 6.8);
    expect(after!.y).toBeCloseTo(204 - 6.8);
  });

  it("are drawn by kind, and only those in sight", () => {
    const held: KeyedCurve = {
      curve: curve([0, 1]),
      mode: "keys",
      rows: [row(10, 0.5, "smooth"), row(20, 0.5, "flat"), row(30, 0.5, "stepped"), row(300, 0.5, "smooth")],
    };
    const stage = testStage();
    shown(held).draw(stage, BAND);
    expect(of(stage.calls, "arc")).toHaveLength(1);
    expect(of(stage.calls, "rect").filter((c) => (c.args[2] as number) < 10)).toHaveLength(1);
    expect(of(stage.calls, "closePath")).toHaveLength(1);
  });

  it("go along with a drag, and are outlined twice where they are chosen", () => {
    const held: KeyedCurve = { curve: curve([0, 1]), mode: "keys", rows: [row(10, 0.5, "smooth")] };
    const stage = testStage();
    shown(held, { isChosen: () => true, chosenCount: 1, drag: { frames: 5, value: 0.25 } }).draw(stage, BAND);
    const [inner, outer] = of(stage.calls, "arc");
    expect(inner!.args.slice(0, 3)).toEqual([150, 154, 4.5]);
    expect(outer!.args.slice(0, 3)).toEqual([150, 154, 7.5]);
  });

  it("show a lasso under way", () => {
    const held: KeyedCurve = { curve: curve([0, 1]), mode: "keys", rows: [] };
    const stage = testStage();
    shown(held, { stroke: [at(1, 1), at(5, 1), at(5, 5)], strokeClosed: true }).draw(stage, BAND);
    expect(of(stage.calls, "closePath")).toHaveLength(1);
    expect(of(stage.calls, "setLineDash").at(-1)!.args).toEqual([[4, 3]]);
  });
});

describe("over all tracks", () => {
  it("what is outside the range is shaded", () => {
    const stage = testStage({ range: { from: 20, to: 60 } });
    drawRange(stage, 22);
    const shades = of(stage.calls, "fillRect").filter((c) => c.fill === PALETTE.ground);
    expect(shades.map((c) => c.args)).toEqual([
      [0, 22, 200, 300],
      [600, 22, 400, 300],
    ]);
    const none = testStage();
    drawRange(none, 22);
    expect(none.calls).toHaveLength(0);
  });
  it("the playhead stands at the frame", () => {
    const stage = testStage({ frame: 42 });
    drawPlayhead(stage);
    expect(of(stage.calls, "moveTo")[0]!.args).toEqual([420.5, 8]);
  });
});
