import { describe, expect, it } from "vitest";
import { layer, RIG, rigRows } from "./fakeShots";
import { channelsOf, isTouchup, missingIn, namedIn, regionsOf, rigWords, rowsFound, type Rig } from "./rig";

const rig: Rig = { role: "odile", character: RIG, low: 0, high: 1.5, shown: [], rows: rigRows() };
const names = (words: string, regions: string[] = []) => rowsFound(rig, words, regions).map((r) => r.name);

describe("a rig", () => {
  it("has channels with the regions of what they are of", () => {
    expect(channelsOf(rig)).toHaveLength(8);
    expect(channelsOf(null)).toEqual([]);
    expect(regionsOf(rig)["joint head slide z"]).toBe("head");
  });
  it("is searched by words in any order, by kind, and by region", () => {
    expect(names("")).toEqual(["mouthSmileLeft", "whiskers up", "head"]);
    expect(names("UP whisk")).toEqual(["whiskers up"]);
    expect(names("joint")).toEqual(["head"]);
    expect(names("", ["lips", "head"])).toEqual(["mouthSmileLeft", "head"]);
    expect(names("smile", ["head"])).toEqual([]);
  });
  it("is said in its own words", () => {
    expect(rigWords("target mouthSmileLeft")).toBe("mouthSmileLeft");
    expect(rigWords("joint head turn x")).toBe("head turn x");
  });
});

describe("what a touch-up layer speaks of", () => {
  const span = { first: 0, last: 9, leadIn: 6, leadOut: 6, strength: 1, ease: "smooth", curves: {}, origin: 0 };
  const body = layer("corner", {
    character: RIG,
    keys: { "joint head turn x": {}, "target gone": {} },
    spans: { s: { ...span, offset: { "target mouthSmileLeft": 0.2, "target gone": 0.1 } } },
  });
  it("is listed as the rig has it, and what the rig lacks beside it", () => {
    expect(isTouchup(body)).toBe(true);
    expect(isTouchup(layer("lip"))).toBe(false);
    expect(namedIn(body.body, rig)).toEqual(["target mouthSmileLeft", "joint head turn x"]);
    expect(missingIn(body.body, rig)).toEqual(["target gone"]);
  });
});
