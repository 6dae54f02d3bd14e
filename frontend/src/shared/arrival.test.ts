import { expect, it } from "vitest";
import { sameDesk } from "./arrival";

it("takes another take at the same desk as no going away", () => {
  expect(sameDesk("/harbour/gather/one", "/harbour/gather/two")).toBe(true);
  expect(sameDesk("/harbour/gather", "/harbour/gather/two")).toBe(true);
});

it("sees another desk, and another production, as going away", () => {
  expect(sameDesk("/harbour/gather/one", "/harbour/solve/one")).toBe(false);
  expect(sameDesk("/harbour/gather/one", "/lantern/gather/one")).toBe(false);
});
