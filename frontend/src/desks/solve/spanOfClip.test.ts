import { describe, expect, it } from "vitest";
import { solvedOf, solveWord, spansOf } from "./spanOfClip";

describe("the in and out of a clip", () => {
  it("are solved with handles, as far as the clip goes", () => {
    expect(solvedOf({ first: 40, last: 90, handles: 12 }, 300)).toEqual([28, 102]);
    expect(solvedOf({ first: 4, last: 295, handles: 12 }, 300)).toEqual([0, 299]);
    expect(solvedOf({ first: 4, last: 4, handles: 0 }, 300)).toEqual([4, 4]);
  });

  it("are the whole clip where nothing is marked", () => {
    expect(solvedOf(null, 300)).toBeNull();
    expect(solveWord(null, 300)).toBe("Solve this clip");
    expect(solveWord({ first: 40, last: 90, handles: 10 }, 300)).toBe("Solve 30..100");
  });
});

describe("frames that were taken for neutral", () => {
  it("are said as spans of those that follow each other", () => {
    expect(spansOf([4, 5, 6, 40, 51, 52])).toEqual([
      [4, 6],
      [40, 40],
      [51, 52],
    ]);
    expect(spansOf([])).toEqual([]);
  });
});
