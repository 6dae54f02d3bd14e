import { describe, expect, it } from "vitest";
import type { Snag } from "../api/client";
import { step } from "../snags/snags";
import { flagAt } from "../timekit/tracks/flags";
import {
  chosenIds,
  chosenRows,
  copied,
  count,
  handOf,
  handOfLayer,
  inside,
  merged,
  moved,
  nextKey,
  toggled,
  type Hand,
} from "./keys";

const hand: Hand = {
  jawOpen: {
    mode: "keys",
    ids: ["a", "b", "c"],
    keys: [
      [0, 0, 0, 0, "flat"],
      [12, 0.5, 0, 0, "free"],
      [30, 0.2, 0, 0, "smooth"],
    ],
  },
  cheekPuff: { mode: "offset", ids: ["d"], keys: [[5, 0, 0, 0, "flat"]] },
};

describe("chosen keys", () => {
  it("are named to the server by their ids", () => {
    expect(chosenIds(hand, { jawOpen: [30, 12], cheekPuff: [7] })).toEqual({ jawOpen: ["b", "c"] });
    expect(chosenIds(hand, { nothing: [1] })).toEqual({});
    expect(chosenRows(hand, { jawOpen: [12] })).toEqual([[12, 0.5, 0, 0, "free"]]);
  });
  it("lie in order of frame, and are sorted once", () => {
    const body = {
      hand: {
        jawOpen: {
          mode: "keys" as const,
          keys: { z: [9, 0, 0, 0, "flat"], a: [20, 0, 0, 0, "flat"], m: [3, 0, 0, 0, "flat"] } as never,
        },
      },
    };
    expect(handOf(body).jawOpen!.ids).toEqual(["m", "z", "a"]);
    expect(handOf(body)).toBe(handOf(body));
    expect(handOf(undefined)).toEqual({});
  });
  it("are of a layer what it says, and empty tables are none", () => {
    const keys = { jawOpen: { b: [9, 1, 0, 0, "flat"], a: [3, 0, 0, 0, "flat"] }, cheekPuff: {} };
    const layer = (does: "add" | "replace" | "scale") =>
      ({ does, keys }) as unknown as Parameters<typeof handOfLayer>[0];
    expect(handOfLayer(layer("add"))).toEqual({
      jawOpen: { mode: "offset", ids: ["a", "b"], keys: [keys.jawOpen.a, keys.jawOpen.b] },
    });
    expect(handOfLayer(layer("add"))).toBe(handOfLayer(layer("add")));
    expect(handOfLayer(undefined)).toEqual({});
  });
  it("are added, taken away and counted", () => {
    const one = toggled({}, "jawOpen", 12);
    expect(count(merged(one, { jawOpen: [12, 30], cheekPuff: [5] }))).toBe(3);
    expect(toggled(one, "jawOpen", 12)).toEqual({ jawOpen: [] });
  });
  it("stay chosen where they were moved to", () =>
    expect(moved({ jawOpen: [12, 30] }, 4)).toEqual({ jawOpen: [16, 34] }));
  it("are copied by channel", () =>
    expect(copied(hand, { jawOpen: [12] })).toEqual({ jawOpen: [[12, 0.5, 0, 0, "free"]] }));
  it("lie inside a lasso or not", () => {
    const stroke = [
      { x: 0, y: 0 },
      { x: 10, y: 0 },
      { x: 10, y: 10 },
      { x: 5, y: 4 },
      { x: 0, y: 10 },
    ];
    expect(inside({ x: 2, y: 2 }, stroke)).toBe(true);
    expect(inside({ x: 5, y: 8 }, stroke)).toBe(false);
    expect(inside({ x: 12, y: 2 }, stroke)).toBe(false);
  });
  it("are reached one after the other", () => {
    expect(nextKey(hand, ["jawOpen", "cheekPuff"], 0, false)).toBe(5);
    expect(nextKey(hand, ["jawOpen"], 12, true)).toBe(0);
    expect(nextKey(hand, ["jawOpen"], 30, false)).toBe(Infinity);
  });
});

const snag = (key: string, first: number, last = first) => ({ key, first, last }) as Snag;

describe("snags", () => {
  const list = [snag("c", 90), snag("a", 10), snag("b", 40)];
  it("are walked in order of time from the one that is looked at", () => {
    expect(step(list, "a", 0, false)?.key).toBe("b");
    expect(step(list, "b", 0, true)?.key).toBe("a");
    expect(step(list, "c", 0, false)).toBeUndefined();
  });
  it("are walked from the playhead where none is looked at", () => {
    expect(step(list, null, 41, false)?.key).toBe("c");
    expect(step(list, null, 41, true)?.key).toBe("b");
  });
  it("are found in the strip, the shortest first", () => {
    const mark = (key: string, from: number, to: number) => ({
      key,
      from,
      to,
      severity: 1,
      colour: "#fff",
      chosen: false,
      whole: false,
    });
    const axis = { from: 0, to: 100, width: 1000 };
    const flags = [mark("long", 0, 100), mark("short", 50, 52)];
    expect(flagAt(axis, flags, 510)?.key).toBe("short");
    expect(flagAt(axis, flags, 100)?.key).toBe("long");
    expect(flagAt(axis, flags.slice(1), 100)).toBeNull();
  });
});
