import { describe, expect, it } from "vitest";
import { swell } from "./playShapes";

describe("playing a shape", () => {
  it("begins and ends at rest and is whole in the middle", () => {
    expect(swell(0)).toBeCloseTo(0);
    expect(swell(0.5)).toBeCloseTo(1);
    expect(swell(1)).toBeCloseTo(0);
    expect(swell(-3)).toBeCloseTo(0);
  });
});
