import { describe, expect, it } from "vitest";
import { contactSpans } from "../../deck/deckModel";
import { fitted } from "../../timekit/timeAxis";
import { spanAt } from "../../timekit/tracks/spans";
import { tenths } from "./ContactSection";
import { proposalChanges } from "./MeasuredSection";
import { swell } from "./playShapes";
import { numberChange, response } from "./sheet";

describe("playing a shape", () => {
  it("begins and ends at rest and is whole in the middle", () => {
    expect(swell(0)).toBeCloseTo(0);
    expect(swell(0.5)).toBeCloseTo(1);
    expect(swell(1)).toBeCloseTo(0);
    expect(swell(-3)).toBeCloseTo(0);
  });
});

describe("a cast sheet", () => {
  it("keeps only what differs from 1:1", () => {
    expect(numberChange("regionStrength", "lips", 1.2, 1)).toEqual({ path: "regionStrength/lips", value: 1.2 });
    expect(numberChange("regionStrength", "lips", 1, 1)).toEqual({ path: "regionStrength/lips", remove: true });
  });
  it("bends as the server does", () => {
    expect(response(0.25, 1)).toBeCloseTo(0.5);
    expect(response(0.5, -1)).toBeCloseTo(0.25);
    expect(response(-0.25, 1)).toBeCloseTo(-0.5);
  });
  it("takes proposals over one by one, beside what stands there", () => {
    const found = [{ field: "wayStrength", name: "jaw open", value: 0.88, was: 1, ours: 0, theirs: 0, words: "" }];
    expect(proposalChanges(found)).toEqual([{ path: "wayStrength/jaw open", value: 0.88 }]);
  });
  it("shows nothing without a sign", () => {
    expect(tenths(-0.01)).toBe("0.0");
    expect(tenths(-0.26)).toBe("-0.3");
  });
});

describe("held spans on the deck", () => {
  const span = (kind: string, first: number) => ({
    kind,
    key: `${kind} ${first}`,
    first,
    last: first + 10,
    before: 1,
    after: 0,
    on: true,
  });
  const axis = fitted(1000, 100);
  const { spans, marks } = contactSpans({
    kept: [span("lips", 20), span("lid left", 20)],
    crossings: [{ kind: "lid left", words: "", first: 3, last: 4, peak: 3, depth: 1 }],
  });
  const x = 250;
  it("lie in the row of their kind, lids below lips", () => {
    expect(spanAt(axis, spans, x, 3)?.key).toBe("lips 20");
    expect(spanAt(axis, spans, x, 13)?.key).toBe("lid left 20");
    expect(marks).toEqual([{ row: 1, first: 3, last: 4 }]);
  });
  it("leave the rest of the deck alone", () => {
    expect(spanAt(axis, spans, x, 40)).toBeNull();
    expect(spanAt(axis, spans, 900, 3)).toBeNull();
  });
});
