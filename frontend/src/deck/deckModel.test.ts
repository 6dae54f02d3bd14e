import { describe, expect, it } from "vitest";
import type { Snag, TakeBody } from "../api/client";
import { handOf } from "../keys/keys";
import { pyramid } from "../timekit/decimate";
import type { Curve } from "../timekit/tracks/curves";
import { colourOf } from "../shared/regions";
import type { Curves } from "../workspace/workspace";
import { contactSpans, deckCurves, frameFaults, keyedCurves, nextFault, Pyramids, snagFlags } from "./deckModel";

const table = (data: number[], columns: number) => ({
  data: Float32Array.from(data),
  shape: [data.length / columns, columns],
});
const channels = ["jawOpen", "headTurn", "eyeBlinkRight"];
const curves = {
  channels,
  frames: 2,
  rate: 60,
  raw: table([0, 1, 2, 3, 4, 5], 3),
  tidied: table([6, 7, 8, 9, 10, 11], 3),
} as unknown as Curves;
const regionOf = { jawOpen: "jaw", headTurn: "head", eyeBlinkRight: "lids" };
const shown = (selected: string[], against?: Float32Array) =>
  deckCurves(curves, selected, regionOf, false, new Pyramids(), against);

describe("curves of the deck", () => {
  it("are the chosen channels that the take has, in the order in which they were chosen", () => {
    expect(shown(["eyeBlinkRight", "gone", "jawOpen"]).map((c) => c.name)).toEqual(["eyeBlinkRight", "jawOpen"]);
  });
  it("have their region's colour, and are dashed on the right side", () => {
    const [jaw, lid] = shown(["jawOpen", "eyeBlinkRight"]);
    expect(jaw).toMatchObject({ colour: colourOf("jaw", false), dashed: false });
    expect(lid).toMatchObject({ colour: colourOf("lids", false), dashed: true });
  });
  it("draw angles at a thirtieth beside weights, and as they are alone", () => {
    expect(shown(["jawOpen", "headTurn"]).map((c) => c.scale)).toEqual([1, 30]);
    expect(shown(["headTurn"])[0]!.scale).toBe(1);
  });
  it("hold raw and tidied values, or those that they are compared with", () => {
    const [jaw] = shown(["jawOpen"]);
    expect([...jaw!.raw.base]).toEqual([0, 3]);
    expect([...jaw!.tidied.base]).toEqual([6, 9]);
    expect([...shown(["jawOpen"], Float32Array.from([20, 0, 0, 30, 0, 0]))[0]!.raw.base]).toEqual([20, 30]);
  });
});

describe("keys in the deck", () => {
  const curve = (name: string) => ({ name, tidied: pyramid(new Float32Array(4), 1, 0) }) as unknown as Curve;
  const keys = { a: [2, 1, 0, 0, "flat"], b: [1, 0, 0, 0, "flat"] };
  const hand = handOf({ hand: { jawOpen: { mode: "keys", keys } } } as unknown as TakeBody);
  it("lie on shown curves that hold some", () => {
    const held = keyedCurves([curve("jawOpen"), curve("headTurn")], hand);
    expect(held.map((k) => [k.curve.name, k.mode, k.rows.map((r) => r[0])])).toEqual([["jawOpen", "keys", [1, 2]]]);
  });
  it("are none where no take is open", () => expect(keyedCurves([curve("jawOpen")], handOf(undefined))).toEqual([]));
});

describe("snags in the strip", () => {
  const snag = (key: string, first: number, last: number) =>
    ({ key, first, last, severity: 0.5, region: "jaw" }) as unknown as Snag;
  it("have long ones first, so that short ones lie over them", () => {
    const flags = snagFlags([snag("short", 5, 6), snag("long", 0, 95)], "short", 100, false);
    expect(flags.map((f) => [f.key, f.chosen, f.whole])).toEqual([
      ["long", false, true],
      ["short", true, false],
    ]);
  });
});

describe("faults of the device's frames", () => {
  const NONE = {
    ...curves,
    channels: ["a"],
    frames: 10,
    raw: table(Array<number>(10).fill(0), 1),
  } as unknown as Curves;
  it("are walked along the steps, so that each lies at its frame", () => {
    const faults = frameFaults(NONE, [
      { row: 3, kind: "dropped", step: 3 },
      { row: 5, kind: "doubled", step: 0 },
      { row: 7, kind: "uneven", step: 1.2 },
    ]);
    expect(faults).toEqual([
      { from: 2, to: 4, kind: "dropped" },
      { from: 6, to: 7, kind: "doubled" },
      { from: 7, to: 8, kind: "uneven" },
    ]);
  });
  it("have gaps to the take's end", () => {
    const gapped = { ...NONE, raw: table([0, NaN, NaN, 0, 0, 0, 0, 0, 0, NaN], 1) } as unknown as Curves;
    expect(frameFaults(gapped, [])).toEqual([
      { from: 1, to: 3, kind: "gap" },
      { from: 9, to: 10, kind: "gap" },
    ]);
  });
  it("are gone to one after the other, uneven ones aside", () => {
    const faults = [
      { from: 8, to: 9, kind: "gap" as const },
      { from: 2, to: 4, kind: "dropped" as const },
      { from: 5, to: 6, kind: "uneven" as const },
    ];
    expect(nextFault(faults, 2, false)).toBe(8);
    expect(nextFault(faults, 8, true)).toBe(2);
    expect(nextFault(faults, 8, false)).toBeUndefined();
    expect(nextFault(faults, 2, true)).toBeUndefined();
  });
});

describe("contacts", () => {
  it("lie in two rows, lips over lids, with crossings as marks", () => {
    const made = contactSpans({
      kept: [
        { key: "a", kind: "lips", first: 1, last: 2, on: true },
        { key: "b", kind: "lids left", first: 3, last: 4, on: false },
      ] as never,
      crossings: [{ kind: "lids left", first: 5, last: 6 }] as never,
    });
    expect(made.spans.map((s) => [s.key, s.row, s.on])).toEqual([
      ["a", 0, true],
      ["b", 1, false],
    ]);
    expect(made.marks).toEqual([{ row: 1, first: 5, last: 6 }]);
  });
});
