import { describe, expect, it } from "vitest";
import { freshId, leafChanges, pathOf } from "./changes";

describe("changes as leaf paths", () => {
  it("speak only of what was changed", () => {
    const shown: { places: Record<string, string>; off: Record<string, boolean>; name: string } = {
      places: { m1: "chin", m2: "nose tip" },
      off: { m2: true },
      name: "stage",
    };
    expect(leafChanges(shown, { places: { m1: "chin", m3: "hairline" }, off: {} })).toEqual([
      { path: "places/m2", remove: true },
      { path: "places/m3", value: "hairline" },
      { path: "off/m2", remove: true },
    ]);
    expect(leafChanges(shown, { name: "stage" })).toEqual([]);
  });
  it("go down to the field of an entry", () => {
    const shown = { drives: { jawOpen: { from: "a", to: "b", reach: 10 } } };
    expect(leafChanges(shown, { drives: { jawOpen: { from: "a", to: "b", reach: 12 } } })).toEqual([
      { path: "drives/jawOpen/reach", value: 12 },
    ]);
  });
  it("take lists, numbers and nothing at all as values", () => {
    expect(leafChanges({ neutral: [0, 9], rest: 4 as number | null }, { neutral: [0, 12], rest: null })).toEqual([
      { path: "neutral", value: [0, 12] },
      { path: "rest", value: null },
    ]);
  });
  it("name keys with any letters", () => {
    expect(pathOf("matches", "Face/Smile~1")).toBe("matches/Face~1Smile~01");
    expect(leafChanges({ matches: {} }, { matches: { "a/b": "x" } })).toEqual([{ path: "matches/a~1b", value: "x" }]);
  });
  it("give ids that differ", () => expect(freshId("smooth")).not.toBe(freshId("smooth")));
});
