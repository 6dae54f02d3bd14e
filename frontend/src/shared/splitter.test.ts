import { describe, expect, it } from "vitest";
import { within } from "./Splitter";

describe("a splitter", () => {
  it("keeps both parts in sight", () => {
    expect(within(50, { least: 190, most: 500 })).toBe(190);
    expect(within(900, { least: 190, most: 500 })).toBe(500);
    expect(within(300.6, { least: 190, most: 500 })).toBe(301);
  });
  it("gives the least where there is room for no more", () => expect(within(400, { least: 190, most: 100 })).toBe(190));
});
