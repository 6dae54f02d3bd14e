import { describe, expect, it } from "vitest";
import {
  about,
  beginning,
  extent,
  fitPicture,
  fitting,
  grouped,
  how,
  isGroup,
  isUnsure,
  moving,
  nudged,
  shifted,
  type LineUp,
  type Recording,
} from "./lineUpModel";

const row = (key: string, given: Partial<Recording> = {}): Recording => ({
  key,
  take: key.split(" ")[0]!,
  slate: "4A / 1",
  performer: "Mara Quill",
  circled: false,
  part: "face",
  names: ["a.csv"],
  kinds: ["curves"],
  seconds: 4,
  rate: "60",
  timecode: "",
  timecodeRate: "",
  remainder: 0,
  noted: false,
  start: 1,
  at: "",
  atRemainder: 0,
  how: "timecode",
  confidence: 1,
  drift: 0,
  against: null,
  picture: null,
  group: "",
  apart: [],
  ...given,
});

const entry = (start: string | null) =>
  ({ take: "a", part: "face", start, how: "timecode", confidence: 0.4, drift: 12, against: "x" }) as const;
const lineup = {
  body: { rate: "24000/1001", sources: { "a face": entry("1001/24000"), "a body": entry(null) } },
} as unknown as LineUp["lineup"];

describe("a line-up", () => {
  it("moves all placed recordings of a take with one, or that one alone", () => {
    const rows = [row("a face"), row("a body"), row("a sound", { start: null }), row("b face")];
    expect(moving(rows, ["a face"], true)).toEqual(["a face", "a body"]);
    expect(moving(rows, ["a face"], false)).toEqual(["a face"]);
    expect(moving(rows, ["a sound"], false)).toEqual(["a sound"]);
  });

  it("moves what is kept together, of whichever take", () => {
    const rows = [
      row("a face", { group: "g" }),
      row("a body"),
      row("b face", { group: "g" }),
      row("c face", { group: "g", start: null }),
    ];
    expect(moving(rows, ["a face"], false)).toEqual(["a face", "b face"]);
    expect(moving(rows, ["a body"], true)).toEqual(["a face", "a body", "b face"]);
    expect(isGroup([rows[0]!, rows[2]!])).toBe(true);
    expect(isGroup([rows[0]!, rows[1]!])).toBe(false);
    expect(isGroup([rows[0]!])).toBe(false);
    expect(grouped(["a face"], "h")).toEqual([{ path: "sources/a face/group", value: "h" }]);
  });

  it("shows how one lies on the one that it was compared with", () => {
    const picture = { first: -1, step: 0.5, offset: 0.25, scores: [0, 90, 20] };
    const rows = [row("a face", { start: 2 }), row("b body", { start: 2.5, against: "a face", picture })];
    expect(fitPicture(rows[1]!, rows)).toMatchObject({
      found: { offset: 0.25, lags: [-1, -0.5, 0], scores: [0, 90, 20] },
      now: 0.5,
    });
    expect(fitPicture(rows[0]!, rows)).toBeNull();
    expect(fitPicture({ ...rows[1]!, against: "gone" }, rows)).toBeNull();
  });

  it("nudges exactly by frames of its count and parts of them, and says who did it", () => {
    const [change] = nudged(lineup, ["a face"], 1);
    expect(change).toMatchObject({
      path: "sources/a face",
      value: { start: "1001/12000", how: "hand", confidence: 1, against: null },
    });
    expect(nudged(lineup, ["a face"], -0.25)[0]!.value).toMatchObject({ start: "1001/32000", drift: 12 });
  });

  it("places what has no place where it is dragged", () => {
    expect(nudged(lineup, ["a body"], 24)[0]!.value).toMatchObject({ start: "1001/1000" });
    expect(nudged(lineup, ["gone"], 1)).toEqual([]);
  });

  it("reaches from the first beginning to the last end", () => {
    expect(extent([row("a face", { start: -2 }), row("b face", { start: 3, seconds: 9 })])).toEqual({
      from: -2,
      to: 12,
    });
    expect(extent([])).toEqual({ from: 0, to: 1 });
  });

  it("says where a recording begins, with what is left of a frame", () => {
    expect(beginning(row("a face", { start: null }))).toBe("not placed, for nothing says where it begins");
    expect(beginning(row("a face", { at: "10:00:00:05", atRemainder: 0.25 }))).toBe("10:00:00:05 + 0.25 frame");
    expect(beginning(row("a face", { at: "10:00:00:05" }))).toBe("10:00:00:05");
    expect(beginning(row("a face"))).toBe("1.0000 s");
  });

  it("says how a start was found, and does not call a poor fit sure", () => {
    const poor = row("a face", { how: "lips", confidence: 0.3, against: "b sound" });
    expect(isUnsure(poor)).toBe(true);
    expect(how(poor)).toBe("by lips to sound, unsure (30%)");
    expect(how(row("a face", { how: "sound", confidence: 0.9, against: "b sound", drift: 40 }))).toBe(
      "by what both heard, sure (90%), runs 40 ppm slow",
    );
    expect(how(row("a face"))).toBe("by timecode");
    expect(isUnsure(row("a face", { how: "first", confidence: 0 }))).toBe(false);
  });

  it("shows all of it, closer about a frame, and farther on", () => {
    const axis = fitting(0, 100, 500);
    expect(axis).toEqual({ from: -3, to: 103, width: 500 });
    const closer = about(axis, 50, 0.5);
    expect((50 - closer.from) / (closer.to - closer.from)).toBeCloseTo((50 - axis.from) / 106);
    expect(about(axis, 50, 1e-9).to - about(axis, 50, 1e-9).from).toBeCloseTo(8);
    expect(shifted(axis, 10).from).toBe(7);
  });
});
