import { describe, expect, it } from "vitest";
import type { Bundle, Table } from "../api/bundle";
import { NOTHING_SHOWN, patched, received, shownOf, type Parts } from "./tables";

const table = (data: number[], ...shape: number[]): Table => ({ data: Float32Array.from(data), shape });
const whole = (part: string, columns: string[], data: number[], size = 1) => ({
  said: { part, tag: `${part} 1`, columns, size, first: 0, count: data.length / columns.length / size, of: "" },
  arrays: { [part]: table(data) },
});
const bundle = (...pieces: ReturnType<typeof whole>[]): Bundle => ({
  head: { rate: "30000/1001", timecode: "", timecodeRate: "", pieces: pieces.map((p) => p.said) },
  arrays: Object.assign({}, ...pieces.map((p) => p.arrays)),
});
const runs = (part: string, of: string, columns: string[], rows: number[][], values: number[], size = 1) => ({
  said: { part, tag: `${part} 2`, columns, size, first: 0, count: 0, of },
  arrays: { [`${part} runs`]: table(rows.flat(), rows.length, 3), [part]: table(values, values.length / size, size) },
});

describe("pieces of a take", () => {
  const held = received(
    {},
    bundle(whole("raw", ["a", "b"], [1, 2, 3, 4, 5, 6]), whole("tidied", ["a", "b"], [1, 2, 3, 4, 5, 6])),
  )!;
  it("are kept whole under their tags", () => {
    expect(held.raw!.tag).toBe("raw 1");
    expect(held.raw!.table.shape).toEqual([3, 2]);
  });
  it("are changed where runs say so, and the older table stays as it is", () => {
    const next = received(held, bundle(runs("tidied", "tidied 1", ["a", "b"], [[1, 1, 2]], [40, 60])))!;
    expect([...next.tidied!.table.data]).toEqual([1, 2, 3, 40, 5, 60]);
    expect([...held.tidied!.table.data]).toEqual([1, 2, 3, 4, 5, 6]);
    expect(next.tidied!.tag).toBe("tidied 2");
  });
  it("stay the same object where nothing changed", () => {
    expect(received(held, bundle(runs("tidied", "tidied 1", ["a", "b"], [], [])))!.tidied!.table).toBe(
      held.tidied!.table,
    );
  });
  it("are asked for again where they build on what is not held", () => {
    expect(received(held, bundle(runs("tidied", "another", ["a", "b"], [], [])))).toBeNull();
    expect(received({}, bundle(runs("tidied", "tidied 1", ["a", "b"], [], [])))).toBeNull();
  });
  it("of several numbers a column are put in together", () => {
    const base = table([0, 0, 0, 1, 1, 1, 2, 2, 2, 3, 3, 3], 2, 2, 3);
    expect([...patched(base, table([1, 0, 1], 1, 3), table([7, 8, 9], 1, 3), 3).data]).toEqual([
      0, 0, 0, 7, 8, 9, 2, 2, 2, 3, 3, 3,
    ]);
  });
});

describe("what is drawn", () => {
  const curves = [whole("raw", ["a"], [1, 2]), whole("tidied", ["a"], [1, 2])];
  const body = [
    whole("weights", ["smile"], [0, 1]),
    whole("motion", ["jaw"], [0, 0, 0, 1, 0, 0, 0, 1], 4),
    whole("root", ["hips"], [0, 0, 0, 1, 1, 1], 3),
    whole("shifts", [], [], 3),
  ];
  const made = (pieces: ReturnType<typeof whole>[], more = {}) => {
    const b = bundle(...pieces);
    return { parts: received({}, b)!, head: { ...b.head, ...more } };
  };
  it("is curves alone without a character", () => {
    const { parts, head } = made(curves);
    const shown = shownOf(parts, head, NOTHING_SHOWN);
    expect(shown.body).toBeNull();
    expect(shown.curves!.rate).toBeCloseTo(29.97);
    expect(shown.curves!.frames).toBe(2);
  });
  it("is the body with its root, its contacts and what stays still", () => {
    const { parts, head } = made([...curves, ...body], {
      still: [["eyes", "look"]],
      kept: [{ key: "lips 1" }],
      crossings: [],
    });
    const shown = shownOf(parts, head, NOTHING_SHOWN);
    expect(shown.body).toMatchObject({
      targets: ["smile"],
      joints: ["jaw"],
      rootJoint: "hips",
      still: [["eyes", "look"]],
      shifted: [],
      shifts: null,
    });
    expect(shown.body!.root!.shape).toEqual([2, 3]);
    expect(shown.body!.motion.shape).toEqual([2, 1, 4]);
  });
  it("keeps curves that did not change the same object", () => {
    const { parts, head } = made(curves);
    const first = shownOf(parts, head, NOTHING_SHOWN);
    expect(shownOf(parts, head, first).curves).toBe(first.curves);
    const other: Parts = { ...parts, tidied: { ...parts.tidied!, table: table([9, 9], 2, 1) } };
    expect(shownOf(other, head, first).curves).not.toBe(first.curves);
  });
  it("keeps contacts where an answer does not speak of them", () => {
    const { parts, head } = made([...curves, ...body], { still: [], kept: [{ key: "lips 1" }], crossings: [] });
    const first = shownOf(parts, head, NOTHING_SHOWN);
    expect(shownOf(parts, bundle(...curves).head, first).body!.kept).toEqual([{ key: "lips 1" }]);
  });
  it("has no root where the character's root stays", () => {
    const { parts, head } = made([...curves, body[0]!, body[1]!, whole("root", [""], [0, 0, 0, 0, 0, 0], 3)]);
    expect(shownOf(parts, head, NOTHING_SHOWN).body).toMatchObject({ rootJoint: "", root: null });
  });
});
