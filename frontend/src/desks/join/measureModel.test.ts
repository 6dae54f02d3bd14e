import { describe, expect, it } from "vitest";
import { ofPerformer, shownAs, typedAs, type Measures } from "./measureModel";

describe("measures of a performer", () => {
  it("are shown in centimetres, nothing for what is not known", () => {
    expect([1.7234, 0.9, null, undefined].map(shownAs)).toEqual(["172.3", "90", "", ""]);
  });
  it("are typed in centimetres, with comma or point, with or without the unit", () => {
    expect(["172.3", "172,3 cm", " 90 ", "", "  "].map(typedAs)).toEqual([1.723, 1.723, 0.9, null, null]);
  });
  it("are not what is no number", () => {
    expect(["tall", "1 80"].map(typedAs)).toEqual([undefined, undefined]);
  });
  it("are found by the performer's name", () => {
    const rows = ["Mara Quill", "Ivo Thackett"].map((performer) => ({ body: { performer } })) as unknown as Measures[];
    expect(ofPerformer(rows, "Ivo Thackett")).toBe(rows[1]);
    expect(ofPerformer(rows, "nobody")).toBeNull();
  });
});
