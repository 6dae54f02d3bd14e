import { describe, expect, it } from "vitest";
import {
  inOrder,
  lookedAt,
  matching,
  nearestPlace,
  otherwise,
  partner,
  PLAIN_LOOK,
  projected,
  states,
  swung,
  turnable,
  turning,
  type Joint,
  type Report,
} from "./matchModel";
import { angleAt, turnedInView } from "./turnRing";

const joint = (name: string, parent: number, at: [number, number, number], part = "", side = "", twin = ""): Joint => ({
  name,
  parent,
  at,
  part,
  side,
  twin,
});
const character = [
  joint("hips", -1, [0, 1, 0], "hips"),
  joint("spine1", 0, [0, 1.2, 0], "spine"),
  joint("spine2", 1, [0, 1.4, 0], "spine"),
  joint("handLeft", 2, [0.6, 1.4, 0], "hand", "L", "handRight"),
  joint("thumbLeft", 3, [0.65, 1.4, 0.05], "finger1", "L", "thumbRight"),
  joint("handRight", 2, [-0.6, 1.4, 0], "hand", "R", "handLeft"),
  joint("thumbRight", 5, [-0.65, 1.4, 0.05], "finger1", "R", "thumbLeft"),
  joint("bag", 2, [0, 1.3, -0.2]),
];
const body = [
  joint("a", -1, [0, 100, 0], "hips"),
  joint("b", 0, [0, 130, 0], "spine"),
  joint("l", 1, [60, 140, 0], "hand", "L", "r"),
  joint("lt", 2, [65, 140, 5], "finger1", "L", "rt"),
  joint("r", 1, [-60, 140, 0], "hand", "R", "l"),
  joint("rt", 4, [-65, 140, 5], "finger1", "R", "lt"),
  joint("lone", 1, [0, 150, 0]),
];
const report = (more: Partial<Report> = {}): Report => ({
  body,
  character,
  matches: { hips: "a", spine1: "b", spine2: "b", handLeft: "l", thumbLeft: "lt", handRight: "r", thumbRight: "rt" },
  confidence: { hips: 0.9, handLeft: 0.9, handRight: 0.9, thumbLeft: 0.9, thumbRight: 0.9 },
  shared: ["spine1", "spine2"],
  own: [],
  turns: {},
  differences: {},
  held: [],
  kept: null,
  chains: "share",
  said: 0,
  part: "body",
  ...more,
});

describe("how joints stand", () => {
  it("takes a chain that shares for no double", () => {
    expect(states(report())).toMatchObject({ hips: "matched", spine1: "shared", spine2: "shared", bag: "unmatched" });
  });
  it("finds what is moved by the same, what is unsure and what is alone", () => {
    const found = states(report({ matches: { ...report().matches, thumbLeft: "l" }, confidence: { handRight: 0.4 } }));
    expect(found).toMatchObject({ thumbLeft: "doubled", handLeft: "doubled", handRight: "doubtful" });
  });
  it("puts what wants a look first; what is no part of a body wants none", () => {
    const matches = Object.fromEntries(Object.entries(report().matches).filter(([ours]) => ours !== "thumbRight"));
    const { look, rest } = inOrder(report({ matches, confidence: { handRight: 0.4 } }));
    expect(look.map((j) => j.name)).toEqual(["handRight", "thumbRight"]);
    expect(rest.map((j) => j.name)).toContain("bag");
  });
  it("lists only hands where a take of hands is matched", () => {
    const { look, rest } = inOrder(report({ part: "hands" }));
    expect([...look, ...rest].map((j) => j.name)).toEqual(["handLeft", "thumbLeft", "handRight", "thumbRight"]);
  });
  it("names the limbs that lie otherwise at rest, the farthest first", () => {
    const arms = [joint("armLeft", 0, [1, 1, 0], "upperarm", "L"), joint("armRight", 0, [-1, 1, 0], "upperarm", "R")];
    const differences = { armLeft: 20, armRight: 45, handLeft: 90, hips: 2 };
    const found = otherwise(report({ character: [...character, ...arms], differences }), 12);
    expect(found).toEqual([
      ["armRight", 45],
      ["armLeft", 20],
    ]);
  });
  it("answers from either side", () => {
    expect(partner(report(), "character", "handLeft")).toBe("l");
    expect(partner(report(), "body", "b")).toBe("spine1");
    expect(partner(report(), "body", "lone")).toBe("");
  });
});

describe("changes", () => {
  it("match the twin as well when both sides are meant", () => {
    expect(matching(report(), "handLeft", "lt", true)).toEqual([
      { path: "matches/handLeft", value: "lt" },
      { path: "matches/handRight", value: "rt" },
    ]);
    expect(matching(report(), "handLeft", "lt", false)).toHaveLength(1);
    const ofHands = matching(report({ part: "hands" }), "handLeft", "lt", true);
    expect(ofHands.map((c) => c.path)).toEqual(["handsMatches/handLeft", "handsMatches/handRight"]);
  });
  it("leave the twin alone where the body's joint has none", () => {
    expect(matching(report(), "handLeft", "lone", true)).toEqual([{ path: "matches/handLeft", value: "lone" }]);
    expect(matching(report(), "handLeft", "", true)).toEqual([
      { path: "matches/handLeft", value: "" },
      { path: "matches/handRight", value: "" },
    ]);
  });
  it("turn the twin the other way round", () => {
    expect(turning(report(), "handLeft", [10, 20, -5], true)).toEqual([
      { path: "turns/handLeft", value: [10, 20, -5] },
      { path: "turns/handRight", value: [10, -20, 5] },
    ]);
    expect(turning(report(), "hips", [0, 3, 0], true)).toHaveLength(1);
    const ofHands = turning(report({ part: "hands" }), "thumbLeft", [0, 0, 9], false);
    expect(ofHands).toEqual([{ path: "handsTurns/thumbLeft", value: [0, 0, 9] }]);
  });
  it("is for every joint of a body, and for fingers of hands", () => {
    expect(turnable(report(), "handLeft")).toBe(true);
    expect(turnable(report({ part: "hands" }), "handLeft")).toBe(false);
    expect(turnable(report({ part: "hands" }), "thumbLeft")).toBe(true);
  });
});

describe("drawing", () => {
  const frame = { x: 0, y: 0, width: 200, height: 100 };
  it("fills the frame, left to the right of the picture", () => {
    const places = projected(character, "whole", PLAIN_LOOK, frame);
    const xs = places.map((p) => p.x);
    expect(Math.max(...xs)).toBeLessThanOrEqual(200);
    expect(Math.min(...xs)).toBeGreaterThanOrEqual(0);
    expect(places[3]!.x).toBeGreaterThan(places[5]!.x);
    expect(places[2]!.y).toBeLessThan(places[0]!.y);
  });
  it("draws both skeletons alike whatever their unit", () => {
    const big = projected(
      character.map((j) => ({ ...j, at: j.at.map((v) => v * 100) as [number, number, number] })),
      "whole",
      PLAIN_LOOK,
      frame,
    );
    projected(character, "whole", PLAIN_LOOK, frame).forEach((p, i) => {
      expect(big[i]!.x).toBeCloseTo(p.x, 6);
      expect(big[i]!.y).toBeCloseTo(p.y, 6);
    });
  });
  it("turns about up: a quarter turn shows a side", () => {
    const [front, side] = [0, 90].map((yaw) => projected(character, "whole", { ...PLAIN_LOOK, yaw }, frame));
    const wide = (p: typeof front) => Math.abs(p![3]!.x - p![5]!.x);
    expect(wide(side)).toBeLessThan(0.01 * wide(front));
  });
  it("looks at a hand from near, or at all where there is none", () => {
    expect(lookedAt(character, "leftHand")).toEqual([3, 4]);
    expect(lookedAt(character, "leftFoot")).toHaveLength(character.length);
  });
  it("swings what hangs on a joint clockwise about it", () => {
    const places = projected(character, "whole", PLAIN_LOOK, frame);
    const moved = swung(character, places, 3, 90);
    const [x, y] = [places[4]!.x - places[3]!.x, places[4]!.y - places[3]!.y];
    expect(moved[4]!.x - places[3]!.x).toBeCloseTo(-y);
    expect(moved[4]!.y - places[3]!.y).toBeCloseTo(x);
    expect(moved.filter((p, i) => p.x !== places[i]!.x || p.y !== places[i]!.y)).toHaveLength(1);
  });
  it("finds the joint that is meant", () => {
    const places = projected(character, "whole", PLAIN_LOOK, frame);
    expect(nearestPlace(places, places[3]!.x + 1, places[3]!.y, 8)).toBe(3);
    expect(nearestPlace(places, -500, 0, 8)).toBe(-1);
  });
});

describe("the ring", () => {
  it("turns about ahead as seen from the front, the way the hand goes", () => {
    expect(turnedInView([0, 0, 0], { yaw: 0, pitch: 0 }, 30)).toEqual([0, 0, -30]);
  });
  it("turns about left as seen from the side", () => {
    const [x, y, z] = turnedInView([0, 0, 0], { yaw: 90, pitch: 0 }, 20);
    expect(Math.abs(x!)).toBeCloseTo(20, 1);
    expect([y, z]).toEqual([0, 0]);
  });
  it("adds to the turn that there was", () => {
    expect(turnedInView([0, 0, -30], { yaw: 0, pitch: 0 }, 15)).toEqual([0, 0, -45]);
  });
  it("measures clockwise", () => {
    expect(angleAt({ x: 0, y: 0 }, 0, 5) - angleAt({ x: 0, y: 0 }, 5, 0)).toBeCloseTo(90);
  });
});
