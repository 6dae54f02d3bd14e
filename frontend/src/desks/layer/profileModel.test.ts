import { describe, expect, it } from "vitest";
import { added, curve, moved, nearest, without, type Points } from "./profileModel";

const plain: Points = [
  [0, 0],
  [0.3, 1],
  [1, 0],
];

describe("the curve of a lid", () => {
  it("goes through its points and never beyond shut or open", () => {
    const drawn = curve(plain);
    expect(drawn).toContainEqual([0.3, 1]);
    expect(drawn.at(-1)).toEqual([1, 0]);
    expect(Math.max(...drawn.map(([, y]) => y))).toBeLessThanOrEqual(1);
    expect(Math.min(...drawn.map(([, y]) => y))).toBeGreaterThanOrEqual(0);
    expect(drawn.every(([x], i) => !i || x > drawn[i - 1]![0])).toBe(true);
  });
  it("is halfway down halfway to shut, as the server has it", () => {
    const half = curve(plain).find(([x]) => Math.abs(x - 0.15) < 1e-9)!;
    expect(half[1]).toBeCloseTo(0.5);
  });
  it("keeps its points in order, and its ends where they are", () => {
    expect(moved(plain, 1, [0.5, 0.7])[1]).toEqual([0.5, 0.7]);
    expect(moved(plain, 1, [2, -1])[1]).toEqual([0.98, 0]);
    expect(moved(plain, 0, [0.2, 0.5])).toBe(plain);
  });
  it("gets a further point where there is room", () => {
    expect(added(plain, [0.6, 0.4]).map(([x]) => x)).toEqual([0, 0.3, 0.6, 1]);
    expect(added(plain, [0.31, 0.4])).toBe(plain);
    let many = plain;
    for (let x = 0.34; x < 0.99; x += 0.03) many = added(many, [x, 0.5]);
    expect(many).toHaveLength(12);
  });
  it("is taken hold of at its nearest point", () => {
    const more = added(plain, [0.6, 0.4]);
    expect(nearest(more, [0.55, 0.5])).toBe(2);
    expect(nearest(more, [0.2, 1])).toBe(1);
  });
  it("loses a point, but never its last one between the ends", () => {
    expect(without(plain, 1)).toBe(plain);
    const more = added(plain, [0.6, 0.4]);
    expect(without(more, 2)).toEqual(plain);
    expect(without(more, 0)).toBe(more);
  });
});
