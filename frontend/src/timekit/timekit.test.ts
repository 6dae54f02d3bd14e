import { describe, expect, it } from "vitest";
import { columnExtents, drawCrowd } from "./crowd";
import { extent, levelFor, pyramid } from "./decimate";
import { nearest } from "./hitTest";
import { fitted, frameLabel, frameToX, markStep, panned, timecodeStart, xToFrame, zoomed } from "./timeAxis";
import { gestureFor } from "./gestures";
import type { Press, Stage } from "./track";
import { waveTrack } from "./tracks/wave";
import { rangeOf, valueMarks, valueToY, yToValue } from "./valueAxis";

describe("time axis", () => {
  it("goes to pixels and back", () => {
    const axis = { from: 10, to: 110, width: 800 };
    for (const frame of [10, 47.5, 110]) expect(xToFrame(axis, frameToX(axis, frame))).toBeCloseTo(frame);
  });
  it("zooms about a frame that stays where it is", () => {
    const axis = zoomed({ from: 0, to: 100, width: 500 }, 30, 0.5, 1000);
    expect(frameToX(axis, 30)).toBeCloseTo(150);
    expect(axis.to - axis.from).toBeCloseTo(50);
  });
  it("never loses the take", () => {
    let axis = fitted(500, 200);
    for (let i = 0; i < 50; i++) axis = panned(axis, 100, 200);
    expect(axis.from).toBeLessThan(200);
    for (let i = 0; i < 80; i++) axis = zoomed(axis, 100, 0.5, 200);
    expect(axis.to - axis.from).toBeGreaterThanOrEqual(4);
  });
  it("leaves room between marks in any unit", () => {
    for (const unit of ["frames", "seconds", "timecode"] as const)
      for (const span of [10, 300, 36000])
        expect((markStep({ from: 0, to: span, width: 900 }, 60, unit) / span) * 900).toBeGreaterThanOrEqual(60);
  });
  it("labels frames, seconds and timecode of another rate", () => {
    expect(frameLabel(90, 60, "frames", null)).toBe("90");
    expect(frameLabel(90, 60, "seconds", null)).toBe("1.500");
    expect(frameLabel(90, 60, "timecode", timecodeStart("10:59:59:00", "30"))).toBe("11:00:00:15");
    expect(timecodeStart("soon", "30")).toBeNull();
  });
});

describe("value axis", () => {
  it("goes to pixels and back and marks round values", () => {
    const axis = { low: -0.1, high: 1.1, top: 10, bottom: 210 };
    expect(yToValue(axis, valueToY(axis, 0.4))).toBeCloseTo(0.4);
    expect(valueMarks(axis)).toContain(0);
    expect(valueMarks(axis).length).toBeLessThan(9);
  });
  it("keeps 0..1 in sight for weights, and has air", () => {
    const { low, high } = rangeOf([0.2], [0.4], true);
    expect(low).toBeLessThan(0);
    expect(high).toBeGreaterThan(1);
    expect(rangeOf([], [], false)).toEqual({ low: -0.06, high: 1.06 });
  });
});

describe("decimation", () => {
  const frames = 5000;
  const data = Float32Array.from({ length: frames * 2 }, (_, i) => (i % 2 ? Math.sin(i) : i));
  it("keeps every peak at every level", () => {
    data[2 * 3333 + 1] = 9;
    const made = pyramid(data, 2, 1);
    for (const level of made.highs) expect(Math.max(...level)).toBe(9);
    expect(extent(made).high).toBe(9);
  });
  it("passes over gaps", () => {
    const holes = Float32Array.from([1, NaN, 3, NaN, NaN, NaN, NaN, NaN, 5]);
    const made = pyramid(holes, 1, 0);
    expect(extent(made)).toEqual({ low: 1, high: 5 });
    expect(made.lows[0]![2]).toBeNaN();
  });
  it("takes cells no longer than a pixel", () => {
    const made = pyramid(data, 2, 1);
    for (const perPixel of [0.1, 3, 5, 17, 900])
      expect(levelFor(made, perPixel).length).toBeLessThanOrEqual(Math.max(perPixel, 1));
  });
});

describe("a crowd of curves", () => {
  const ramp = Float32Array.from({ length: 4096 }, (_, i) => i / 4096);
  const flat = new Float32Array(64).fill(0.5);
  flat.fill(NaN, 20, 30);
  const line = { colour: 0x3366ff, y0: 100, dy: -100 };

  it("finds the extent of each column, near and far", () => {
    const lows = new Float32Array(64);
    const highs = new Float32Array(64);
    columnExtents(pyramid(ramp, 1, 0), { from: 0, step: 64 }, lows, highs);
    for (let x = 0; x < 64; x++) expect(highs[x]! - lows[x]!).toBeLessThan(64 / 4096);
    expect(lows[32]!).toBeCloseTo((32 * 64) / 4096, 2);
    columnExtents(pyramid(ramp, 1, 0), { from: 100, step: 0.5 }, lows, highs);
    expect(lows[10]!).toBeCloseTo(105 / 4096, 5);
    expect(highs[10]!).toBeCloseTo(105.5 / 4096, 5);
  });
  it("draws a level line at its row and nothing in a gap", () => {
    const pixels = new Uint32Array(64 * 101);
    drawCrowd(pixels, 64, 101, { from: 0, step: 1 }, [{ ...line, of: pyramid(flat, 1, 0) }]);
    const rows = (x: number) => Array.from({ length: 101 }, (_, y) => y).filter((y) => pixels[y * 64 + x]! !== 0);
    expect(rows(5)).toEqual([49, 50]);
    expect(rows(25)).toEqual([]);
    expect(pixels[50 * 64 + 5]! & 0xffffff).toBe(0x3366ff);
  });
  it("joins columns that lie far apart", () => {
    const step = new Float32Array(32).fill(0);
    step.fill(1, 16);
    const pixels = new Uint32Array(32 * 101);
    drawCrowd(pixels, 32, 101, { from: 0, step: 1 }, [{ ...line, of: pyramid(step, 1, 0) }]);
    const filled = Array.from({ length: 101 }, (_, y) => y).every((y) =>
      pixels.slice(y * 32 + 14, y * 32 + 18).some((p) => p !== 0),
    );
    expect(filled).toBe(true);
  });
});

describe("hit test and gestures", () => {
  const flat = (name: string, value: number) => ({ name, valueAt: () => value, toY: (v: number) => 100 - 100 * v });
  it("finds the nearest curve within reach", () => {
    expect(nearest([flat("a", 0.5), flat("b", 0.54)], 3, 47)).toBe("b");
    expect(nearest([flat("a", 0.5)], 3, 80)).toBeNull();
  });
  it("tells scrub, range and pan apart", () => {
    const at = (more = {}) => ({ button: 0, shiftKey: false, altKey: false, ...more });
    expect(gestureFor(at(), true)).toBe("scrub");
    expect(gestureFor(at({ shiftKey: true }), true)).toBe("range");
    expect(gestureFor(at({ shiftKey: true }), false)).toBe("scrub");
    expect(gestureFor(at({ altKey: true }), false)).toBe("pan");
    expect(gestureFor(at({ button: 1 }), true)).toBe("pan");
  });
});

describe("tracks", () => {
  const stage = { axis: { from: 0, to: 100, width: 1000 }, rate: 50 } as Stage;
  const press = (x: number): Press => ({ x, y: 0, adding: false });
  const peaks = { data: new Float32Array(4), rate: 200 };
  it("of a sound are dragged where they may be, by the seconds between", () => {
    const moved: number[] = [];
    const band = { top: 0, height: 46 };
    const wave = waveTrack({ peaks, offset: () => 0.5, onMove: (o) => moved.push(o), onDrop: (o) => moved.push(o) });
    const gesture = wave.press!(stage, band, press(100));
    if (!gesture || gesture === "taken") throw new Error("nothing began");
    gesture.move(press(200));
    gesture.release(press(50));
    expect(moved).toEqual([0.7, 0.4]);
    expect(waveTrack({ peaks, offset: () => 0 }).press!(stage, band, press(100))).toBeNull();
    expect(
      waveTrack({ peaks: null, offset: () => 0, onMove: () => 0, onDrop: () => 0 }).press!(stage, band, press(1)),
    ).toBeNull();
  });
});
