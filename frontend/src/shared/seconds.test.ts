import { describe, expect, it } from "vitest";
import { exact, framesOf, product, quotient, secondsOf, sum, toNumber } from "./seconds";

describe("exact seconds", () => {
  it("adds, multiplies and divides without rounding", () => {
    expect(sum("1001/24000", "1/3")).toBe("9001/24000");
    expect(product("2/3", "3/4")).toBe("1/2");
    expect(quotient("1", "-1/2")).toBe("-2");
    expect(sum("1/2", "-1/2")).toBe("0");
  });
  it("turns frames of any rate into seconds and back", () => {
    for (const rate of ["24", "60", "24000/1001", "30000/1001"])
      for (const frame of [0, 1, 7.25, 1234.5]) expect(framesOf(secondsOf(frame, rate), rate)).toBeCloseTo(frame, 6);
    expect(secondsOf(1, "24000/1001")).toBe("1001/24000");
  });
  it("keeps what somebody typed to a thousandth", () => {
    expect(exact(1.5)).toBe("3/2");
    expect(toNumber(exact(0.333))).toBe(0.333);
  });
});
