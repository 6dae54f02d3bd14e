import { describe, expect, it } from "vitest";
import { heldAt } from "../../timekit/layers/contacts";
import { fitted } from "../../timekit/timeAxis";
import { curvesTop } from "../../timekit/view";
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
  const view = { axis: fitted(1000, 100), held: { kept: [span("lips", 20), span("lid left", 20)], crossings: [] } };
  const x = 250;
  it("are found in the row of their kind", () => {
    expect(heldAt(view, x, curvesTop - 3)?.kind).toBe("lips");
    expect(heldAt(view, x, curvesTop + 6)?.kind).toBe("lid left");
  });
  it("leave the rest of the deck alone", () => {
    expect(heldAt(view, x, curvesTop + 40)).toBeNull();
    expect(heldAt(view, 900, curvesTop - 3)).toBeNull();
    expect(heldAt({ ...view, held: null }, x, curvesTop - 3)).toBeNull();
  });
});
