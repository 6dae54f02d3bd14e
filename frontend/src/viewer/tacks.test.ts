import { describe, expect, it } from "vitest";
import { recordingContext } from "../timekit/testStage";
import { calmed } from "./live";
import { drawTacks, felt, sameAs, type Tack, type Tacks } from "./tacks";

const shape = (frame: number, name: string): Tack => ({ frame, span: 6, shape: name, value: 0.5 }) as Tack;
const point = (frame: number, number: number, x = 10, y = 20): Tack =>
  ({ frame, span: 6, point: number, x, y }) as Tack;

describe("a tack", () => {
  const tacks: Tacks = { a: shape(10, "jawOpen"), b: point(10, 4), c: point(12, 4) };
  it("is moved, not doubled, where the same is set at the same frame", () => {
    expect(sameAs(tacks, shape(10, "jawOpen"))).toBe("a");
    expect(sameAs(tacks, point(10, 4, 99, 99))).toBe("b");
    expect(sameAs(tacks, point(12, 4))).toBe("c");
  });
  it("is another where frame, shape or point differ", () => {
    for (const other of [shape(11, "jawOpen"), shape(10, "jawLeft"), point(10, 5), point(11, 4)])
      expect(sameAs(tacks, other)).toBeUndefined();
  });
  it("counts fully at its frame, less beside it, and not beyond its span", () => {
    const tack = shape(10, "jawOpen");
    expect(felt(tack, 10)).toBe(1);
    expect(felt(tack, 13)).toBeLessThan(felt(tack, 12));
    expect(felt(tack, 7)).toBeCloseTo(felt(tack, 13));
    expect(felt(tack, 17)).toBe(0);
    expect(felt(tack, 3)).toBe(0);
  });
});

describe("drawing tacks", () => {
  const face = () => new Float32Array(5 * 2).fill(1);
  const place = { left: 100, top: 50, scale: 2 };
  const drawn = (tacks: Tacks, frame: number, faceOf: (frame: number) => Float32Array | null = face) => {
    const { context, calls } = recordingContext();
    drawTacks(context, tacks, faceOf, frame, place, "saffron");
    return calls;
  };
  it("puts a diamond about the tacked place, with a line from where the point was tracked", () => {
    const calls = drawn({ a: point(10, 4) }, 10);
    expect(calls.find((c) => c.what === "moveTo")!.args).toEqual([102, 52]);
    expect(calls.find((c) => c.what === "lineTo")!.args).toEqual([120, 90]);
    expect(calls.filter((c) => c.what === "moveTo").map((c) => c.args)[1]).toEqual([120, 84]);
    expect(calls.filter((c) => c.what === "lineTo").map((c) => c.args)).toEqual([
      [120, 90],
      [126, 90],
      [120, 96],
      [114, 90],
    ]);
  });
  it("is fainter away from the tack's frame, and gone beyond its span", () => {
    const alpha = (frame: number) => drawn({ a: point(10, 4) }, frame).find((c) => c.what === "fillRect")?.alpha;
    expect(alpha(12)!).toBeLessThan(alpha(10)!);
    expect(alpha(19)).toBeUndefined();
  });
  it("draws the diamond alone while the frame's points have not come", () => {
    const calls = drawn({ a: point(10, 4) }, 10, () => null);
    expect(calls.filter((c) => c.what === "moveTo").map((c) => c.args)).toEqual([[120, 84]]);
  });
  it("draws no tacks of shapes, which have no place", () => {
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
