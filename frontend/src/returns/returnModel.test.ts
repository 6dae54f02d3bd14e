import { describe, expect, it } from "vitest";
import { type Difference, framesOf, inOrder, named, rowsOf, summary, wordsOf } from "./returnModel";

const one = (part: Difference["part"], of: string, more: Partial<Difference> = {}): Difference => ({
  part,
  of,
  most: 0.3,
  unit: part === "turn" ? "degrees" : part === "place" ? "mm" : "",
  runs: [[10, 20]],
  frames: 11,
  ...more,
});

describe("what is different", () => {
  it("is counted by kind, a joint once however it moves", () => {
    const all = [one("weight", "jawOpen"), one("weight", "smile"), one("turn", "head"), one("place", "head")];
    expect(summary(all)).toBe("2 shapes, 1 joint");
    expect(summary([one("channel", "browInnerUp")])).toBe("1 channel");
    expect(summary([])).toBe("");
  });
  it("is said with how much, in its unit", () => {
    expect(wordsOf(one("weight", "jawOpen"))).toBe("jawOpen by 0.30");
    expect(wordsOf(one("turn", "head", { most: 12.345 }))).toBe("head turned by 12.3 degrees");
    expect(wordsOf(one("place", "hips", { most: 80 }))).toBe("hips moved by 80.0 mm");
  });
  it("is said with its frames, few of many", () => {
    expect(framesOf([[12, 20]])).toBe("frames 12 to 20");
    expect(framesOf([[5, 5]])).toBe("frames 5");
    const many: [number, number][] = [
      [1, 2],
      [4, 6],
      [8, 9],
      [20, 30],
    ];
    expect(framesOf(many)).toBe("frames 1 to 2, 4 to 6, 8 to 9 and 1 more stretch");
    expect(framesOf([...many, [40, 41]])).toMatch(/and 2 more stretches$/);
  });
  it("comes with what changes the most first", () => {
    const all = [one("weight", "a", { most: 0.1 }), one("turn", "b", { most: 30 }), one("place", "c", { most: 50 })];
    expect(inOrder(all).map((d) => d.of)).toEqual(["b", "c", "a"]);
    expect(inOrder([one("weight", "z"), one("weight", "b")]).map((d) => d.of)).toEqual(["b", "z"]);
  });
});

describe("names", () => {
  it("are cut short where there are many", () => {
    expect(named(["a", "b"])).toBe("a, b");
    expect(named([..."abcdefgh"])).toBe("a, b, c, d, e, f and 2 more");
  });
});

describe("a job's rows", () => {
  it("are empty before it is done", () => {
    expect(rowsOf({ result: {} } as never)).toEqual([]);
    expect(rowsOf({ result: { returns: [{ file: "a.glb", ok: true, said: "" }] } } as never)).toHaveLength(1);
  });
});
