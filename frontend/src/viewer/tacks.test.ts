import { describe, expect, it } from "vitest";
import { recordingContext } from "../timekit/testStage";
import { calmed } from "./live";
import { drawPins, felt, sameAs, type Pin, type Pins } from "./pins";

const shape = (frame: number, name: string): Pin => ({ frame, span: 6, shape: name, value: 0.5 }) as Pin;
const point = (frame: number, number: number, x = 10, y = 20): Pin => ({ frame, span: 6, point: number, x, y }) as Pin;

describe("a pin", () => {
  const pins: Pins = { a: shape(10, "jawOpen"), b: point(10, 4), c: point(12, 4) };
  it("is moved, not doubled, where the same is set at the same frame", () => {
    expect(sameAs(pins, shape(10, "jawOpen"))).toBe("a");
    expect(sameAs(pins, point(10, 4, 99, 99))).toBe("b");
    expect(sameAs(pins, point(12, 4))).toBe("c");
  });
  it("is another where frame, shape or point differ", () => {
    for (const other of [shape(11, "jawOpen"), shape(10, "jawLeft"), point(10, 5), point(11, 4)])
      expect(sameAs(pins, other)).toBeUndefined();
  });
  it("counts fully at its frame, less beside it, and not beyond its span", () => {
    const pin = shape(10, "jawOpen");
    expect(felt(pin, 10)).toBe(1);
    expect(felt(pin, 13)).toBeLessThan(felt(pin, 12));
    expect(felt(pin, 7)).toBeCloseTo(felt(pin, 13));
    expect(felt(pin, 17)).toBe(0);
    expect(felt(pin, 3)).toBe(0);
  });
});

describe("drawing pins", () => {
  const points = { data: new Float32Array(20 * 5 * 2).fill(1), shape: [20, 5, 2] };
  const place = { left: 100, top: 50, scale: 2 };
  const drawn = (pins: Pins, frame: number) => {
    const { context, calls } = recordingContext();
    drawPins(context, pins, points, frame, place, "saffron");
    return calls;
  };
  it("rings the pinned place, with a line from where the point was tracked", () => {
    const calls = drawn({ a: point(10, 4) }, 10);
    expect(calls.find((c) => c.what === "moveTo")!.args).toEqual([102, 52]);
    expect(calls.find((c) => c.what === "lineTo")!.args).toEqual([120, 90]);
    expect(calls.find((c) => c.what === "arc")!.args.slice(0, 3)).toEqual([120, 90, 5]);
  });
  it("is fainter away from the pin's frame, and gone beyond its span", () => {
    const alpha = (frame: number) => drawn({ a: point(10, 4) }, frame).find((c) => c.what === "arc")?.alpha;
    expect(alpha(12)!).toBeLessThan(alpha(10)!);
    expect(alpha(19)).toBeUndefined();
  });
  it("draws no pins of shapes, which have no place", () => {
    expect(drawn({ a: shape(10, "jawOpen") }, 10)).toEqual([]);
  });
});

describe("live weights", () => {
  it("come to a new look in a few steps, and at once where nothing was shown", () => {
    expect(calmed([], [0.8])).toEqual([0.8]);
    let shown = [0];
    const seen = Array.from({ length: 6 }, () => (shown = calmed(shown, [1]))[0]!);
    expect(seen[0]).toBeCloseTo(0.6);
    expect(seen.every((v, i) => !i || v > seen[i - 1]!)).toBe(true);
    expect(seen.at(-1)).toBeGreaterThan(0.99);
  });
});
