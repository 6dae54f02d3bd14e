import { describe, expect, it } from "vitest";
import { groupWords } from "../../shared/bodyGroups";
import { addedStep, groupsWith, movedStep, placeOf, stepValues, stepWords, type BodySteps } from "./bodyTidy";

const step = (rank: number, more = {}) => ({
  step: "smooth",
  on: true,
  rank,
  groups: [],
  first: null,
  last: null,
  ...more,
});
const steps: BodySteps = { a: step(1), b: step(2), c: step(4) };
const clock = { begins: 3, rate: 60 };
const ALL = ["hips", "spine", "head"];

describe("steps for a body", () => {
  it("are added at the end", () => {
    const { key, changes } = addedStep(steps, { name: "fill gaps", label: "", help: "", parameters: [] });
    expect(changes).toEqual([{ path: `tidy/${key}`, value: { step: "fill gaps", on: true, rank: 5 } }]);
    expect(addedStep({}, { name: "smooth", label: "", help: "", parameters: [] }).changes[0]!.value).toMatchObject({
      rank: 1,
    });
  });
  it("go past each other, and no farther than to either end", () => {
    expect(movedStep(steps, "c", -1)).toEqual([{ path: "tidy/c/rank", value: 1.5 }]);
    expect(movedStep(steps, "b", -1)).toEqual([{ path: "tidy/b/rank", value: 0 }]);
    expect(movedStep(steps, "b", 1)).toEqual([{ path: "tidy/b/rank", value: 5 }]);
    expect(movedStep(steps, "a", -1)).toEqual([]);
    expect(movedStep(steps, "c", 1)).toEqual([]);
  });
  it("hold their values under their own names", () => {
    expect(stepValues("a", { amount: 0.5, on: false })).toEqual([
      { path: "tidy/a/amount", value: 0.5 },
      { path: "tidy/a/on", value: false },
    ]);
  });
  it("act on groups in the order of the body, on all where all are named", () => {
    expect(groupsWith([], "head", ALL)).toEqual(["head"]);
    expect(groupsWith(["head"], "hips", ALL)).toEqual(["hips", "head"]);
    expect(groupsWith(["hips", "head"], "spine", ALL)).toEqual([]);
    expect(groupsWith(["hips", "head"], "head", ALL)).toEqual(["hips"]);
  });
  it("have their place in seconds of the body, whatever the take's frames are", () => {
    expect(placeOf({ from: 30, to: 90 }, clock)).toEqual({ first: 3.5, last: 4.5 });
    expect(placeOf({ from: 30, to: 90 }, { begins: -2, rate: 60 })).toEqual({ first: 0, last: 0 });
    expect(placeOf(null, clock)).toEqual({ first: null, last: null });
  });
  it("say what they act on and where", () => {
    expect(stepWords(step(1), clock)).toBe("all joints");
    expect(stepWords(step(1, { groups: ["legLeft"], first: 3.5, last: 4.5 }), clock)).toBe("left leg, frames 30 to 90");
    expect(stepWords(step(1, { groups: ["hips", "head"], first: 4 }), clock)).toBe(
      "hips, neck and head, frames 60 to end",
    );
    expect(groupWords(["hips", "spine", "head", "armLeft"])).toBe("4 groups");
  });
});
