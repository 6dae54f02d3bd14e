import { describe, expect, it } from "vitest";
import type { StepInfo, TakeRow, Tidy } from "../api/client";
import { activity, chosen, halves } from "../regionchart/activity";
import { deckCurves, faultMarks, frameFaults, nextFault, Pyramids } from "../deck/deckModel";
import type { Curves } from "../workspace/workspace";
import { readBundle } from "../api/bundle";
import { arranged, named } from "./gather/arrange";
import { chosenTo, rowAfter, toggledIn } from "./gather/choosing";
import { reaches } from "./solve/reach";
import { alignedTo, difference, jitter } from "../workspace/difference";
import { added, moved, orderOf, removed, valueChanges, whereOf } from "./tidy/stack";
import { valuesOf } from "../drawer/steps";

const take = (slate: string, more: Partial<TakeRow> = {}) =>
  ({
    id: slate,
    slate,
    performer: "Mara Quill",
    notes: "",
    archived: false,
    seconds: 1,
    holds: ["curves"],
    ...more,
  }) as TakeRow;

describe("take list", () => {
  const takes = [
    take("10A"),
    take("2A", { seconds: 9 }),
    take("3B", { archived: true }),
    take("1C", { performer: "Ivo Thackett", notes: "hush" }),
  ];
  it("sorts slates by their numbers", () =>
    expect(arranged(takes, "", "slate", false).map((t) => t.slate)).toEqual(["1C", "2A", "10A"]));
  it("searches all words in slate, performer and notes", () =>
    expect(arranged(takes, "ivo hush", "added", false).map((t) => t.slate)).toEqual(["1C"]));
  it("keeps archived takes apart", () =>
    expect(arranged(takes, "", "added", true).map((t) => t.slate)).toEqual(["3B"]));
  it("puts the longest first", () => expect(arranged(takes, "", "length", false)[0]!.slate).toBe("2A"));
});

const table = (data: number[], width: number) => ({
  data: Float32Array.from(data),
  shape: [data.length / width, width],
});
const curves = (data: number[], channels: string[]): Curves => ({
  frames: data.length / channels.length,
  rate: 60,
  rateText: "60",
  timecode: "",
  timecodeRate: "",
  channels,
  raw: table(data, channels.length),
  tidied: table(data, channels.length),
});
const REGION = { jawOpen: "jaw", eyeBlinkLeft: "lids", eyeBlinkRight: "lids", headTurn: "head" };

describe("choosing takes", () => {
  const ids = ["a", "b", "c", "d"];
  it("goes from row to row and stays in the list", () => {
    expect([
      rowAfter("ArrowDown", 1, 4),
      rowAfter("ArrowUp", 0, 4),
      rowAfter("End", 0, 4),
      rowAfter("PageUp", 3, 4),
    ]).toEqual([2, 0, 3, 0]);
    expect([rowAfter("x", 1, 4), rowAfter("ArrowDown", 0, 0)]).toEqual([null, null]);
  });
  it("takes in all from one row to another, beside what was chosen", () => {
    expect(chosenTo(ids, [], "c", "a")).toEqual(["a", "b", "c"]);
    expect(chosenTo(ids, ["d"], "a", "b")).toEqual(["a", "b", "d"]);
    expect(toggledIn(toggledIn(["a"], "b"), "a")).toEqual(["b"]);
  });
});

describe("region chart", () => {
  const made = halves(Object.keys(REGION), REGION, ["lids", "jaw", "head"]);
  it("has both halves of each band; the middle is in both", () => {
    expect(made.map((h) => h.names)).toEqual([
      ["eyeBlinkRight"],
      ["eyeBlinkLeft"],
      ["jawOpen"],
      ["jawOpen"],
      ["headTurn"],
      ["headTurn"],
    ]);
  });
  it("shows the strongest channel, angles by their reach", () => {
    const c = curves([0.2, 0.9, 0.1, -15], Object.keys(REGION));
    expect(activity(made[1]!, c, 0)).toBeCloseTo(0.9);
    expect(activity(made[4]!, c, 0)).toBeCloseTo(0.5);
  });
  it("chooses alone, adds, and takes away", () => {
    expect(chosen(["a"], ["b"], false)).toEqual(["b"]);
    expect(chosen(["a"], ["b"], true)).toEqual(["a", "b"]);
    expect(chosen(["a", "b"], ["b"], true)).toEqual(["a"]);
  });
});

describe("tidy stack", () => {
  const step = (name: string, rank: number) => ({ step: name, on: true, rank });
  const tidy: Tidy = {
    steps: { strength: step("strength", 3), even: step("even out time", 1), smooth: step("smooth", 2) },
  };
  const info = {
    name: "smooth",
    label: "Smooth",
    kind: "temporal",
    help: "",
    regions: [],
    needsPlace: false,
    parameters: [
      { name: "method", kind: "choice", default: "one-euro" },
      { name: "amount", kind: "per_region", default: 0.3 },
    ],
  } as unknown as StepInfo;
  it("runs in the order of its ranks", () => expect(orderOf(tidy)).toEqual(["even", "smooth", "strength"]));
  it("moves a step past its neighbour by its own rank alone, and never before the first", () => {
    expect(moved(tidy, "strength", -1)).toEqual([{ path: "tidy/steps/strength/rank", value: 1.5 }]);
    expect(moved(tidy, "smooth", 1)).toEqual([{ path: "tidy/steps/smooth/rank", value: 4 }]);
    expect(moved(tidy, "smooth", -1)).toEqual([]);
    expect(moved(tidy, "strength", 1)).toEqual([]);
  });
  it("adds a second step of a kind under an id of its own and takes it out", () => {
    const { key, changes } = added(tidy, info);
    expect(key).toMatch(/^smooth-[0-9a-f]{8}$/);
    expect(changes).toEqual([{ path: `tidy/steps/${key}`, value: { step: "smooth", on: true, rank: 4 } }]);
    expect(removed("smooth")).toEqual([{ path: "tidy/steps/smooth", remove: true }]);
  });
  it("fills in defaults and says what a drag changes", () => {
    expect(valuesOf(tidy.steps.smooth!, info.parameters)).toEqual({ method: "one-euro", amount: {} });
    expect(valueChanges("smooth", { amount: { lips: 1 } })).toEqual([
      { path: "tidy/steps/smooth/amount", value: { lips: 1 } },
    ]);
  });
});

describe("numbers", () => {
  it("says how far channels go, gaps aside", () => {
    expect(reaches(Float32Array.from([0.1, 5, NaN, -5, 0.4, 0]), ["a", "b"])).toEqual([
      { name: "a", low: expect.closeTo(0.1), high: expect.closeTo(0.4), gaps: 1 },
      { name: "b", low: -5, high: 5, gaps: 0 },
    ]);
  });
  it("measures what tidying changed", () => {
    const raw = Float32Array.from([0, 1, 0, 1, 0, 1]);
    const flat = new Float32Array(6).fill(0.5);
    const d = difference(raw, flat, 1, 0, 60);
    expect(d.rms).toBeCloseTo(0.5);
    expect(d.peak).toBeCloseTo(0.5);
    expect(d.jitterAfter).toBe(0);
    expect(jitter(raw, 1, 0, 1)).toBeCloseTo(4);
  });
});

describe("deck model", () => {
  it("marks gaps and the frames of faults", () => {
    const c = curves([0, 0, NaN, NaN, 0, 0, 0, 0], ["jawOpen"]);
    const marks = frameFaults(c, [
      { row: 3, kind: "dropped", step: 3 },
      { row: 4, kind: "doubled", step: 0.1 },
    ]);
    expect(marks[0]).toEqual({ from: 2, to: 4, kind: "gap" });
    expect(marks[1]).toEqual({ from: 2, to: 4, kind: "dropped" });
    expect(marks[2]).toEqual({ from: 5, to: 6, kind: "doubled" });
    expect(faultMarks(marks).map((m) => m.tone)).toEqual(["accent", "text", "text"]);
    expect([nextFault(marks, 2, false), nextFault(marks, 5, true), nextFault(marks, 9, false)]).toEqual([
      5,
      2,
      undefined,
    ]);
  });
  it("keeps its pyramids until the curves change", () => {
    const kept = new Pyramids();
    const c = curves([0, 1, 2, 3], ["jawOpen"]);
    const [a] = deckCurves(c, ["jawOpen"], REGION, false, kept);
    const [b] = deckCurves(c, ["jawOpen"], REGION, false, kept);
    expect(b!.tidied).toBe(a!.tidied);
  });
});

describe("bundle", () => {
  const encode = (head: object, values: number[]) => {
    let text = JSON.stringify(head);
    text += " ".repeat((4 - (text.length % 4)) % 4);
    const raw = new ArrayBuffer(8 + text.length + values.length * 4);
    const view = new DataView(raw);
    [..."DYNB"].forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
    view.setUint32(4, text.length, true);
    new Uint8Array(raw, 8).set(new TextEncoder().encode(text));
    values.forEach((v, i) => view.setFloat32(8 + text.length + 4 * i, v, true));
    return raw;
  };
  it("reads its arrays", () => {
    const made = readBundle(encode({ arrays: [{ name: "a", shape: [2, 2] }] }, [1, 2, 3, 4]));
    expect([...made.arrays.a!.data]).toEqual([1, 2, 3, 4]);
  });
  it("refuses what is cut off or no bundle", () => {
    expect(() => readBundle(encode({ arrays: [{ name: "a", shape: [9] }] }, [1]))).toThrow("cut off");
    expect(() => readBundle(new ArrayBuffer(4))).toThrow("no bundle");
  });
});

describe("what files are called as takes", () => {
  it("follows a pattern", () => {
    expect(named("Mara_4A_1.mp4", "{performer}_{slate}_{take}")).toEqual({ slate: "4A / 1", performer: "Mara" });
    expect(named("cam2 - 7C.mov", "{any} - {slate}")).toEqual({ slate: "7C", performer: "" });
    expect(named("4B_2_final.mp4", "{slate}")).toEqual({ slate: "4B 2 final", performer: "" });
    expect(named("a.b(1).mp4", "a.{slate}(1)")).toEqual({ slate: "b", performer: "" });
  });
  it("says where a name does not fit", () => {
    expect(named("4A.mp4", "{performer}_{slate}")).toBeNull();
    expect(named("4A.mp4", "{performer}")).toBeNull();
    expect(named("4A.mp4", "")).toBeNull();
  });
});

describe("another solve laid under the chosen one", () => {
  const other = { data: Float32Array.from([1, 10, 2, 20, 3, 30]), shape: [3, 2] };
  it("is put on the chosen one's frames and channels, with nothing where it has nothing", () => {
    const made = alignedTo({ frames: 4, channels: ["b", "c", "a"] }, other, ["a", "b"], -1);
    expect([...made.data]).toEqual([NaN, NaN, NaN, 10, NaN, 1, 20, NaN, 2, 30, NaN, 3]);
    expect([...alignedTo({ frames: 2, channels: ["a"] }, other, ["a", "b"], 2).data]).toEqual([3, NaN]);
  });
});

describe("where a step acts", () => {
  it("is said in a few words", () => {
    const where = (places: unknown[]) => whereOf({ step: "smooth", on: true, rank: 1, places });
    expect(where([])).toBe("");
    expect(where([{ regions: ["lids"], channels: [], first: null, last: null }])).toBe("lids");
    expect(where([{ channels: ["a", "b", "c"], first: 4, last: 9 }])).toBe("3 channels, 4 to 9");
    expect(where([{}, {}])).toBe("2 places");
  });
});
