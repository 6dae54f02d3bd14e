import { describe, expect, it } from "vitest";
import {
  asPreset,
  beginning,
  changedOptions,
  missing,
  ofPreset,
  PLAIN,
  presetOf,
  sizeOf,
  subjectsFor,
  telling,
  withForm,
  withRange,
  withSettings,
} from "./handoverModel";

const engine = { forms: { gltf: {}, sound: {} }, options: { ...PLAIN, tolerance: 0.0005 }, pattern: "{name}" };

describe("what is handed over", () => {
  it("depends on what is open", () => {
    expect(Object.keys(subjectsFor("take", ""))).toEqual(["take", "circled", "chosen"]);
    expect(subjectsFor("shot", "Odile").role).toBe("this role: Odile");
    expect(Object.keys(subjectsFor(null, ""))).toEqual(["circled", "chosen"]);
  });

  it("says why it cannot be begun", () => {
    const settings = beginning(false);
    expect(missing(settings, "take", 0)).toBe("");
    expect(missing({ ...settings, forms: {} }, "take", 1)).toMatch("at least one");
    expect(missing(settings, "circled", 0)).toMatch("circled");
    expect(missing(settings, "chosen", 0)).toMatch("Choose takes");
    expect(missing(settings, "chosen", 2)).toBe("");
  });
});

describe("settings", () => {
  it("begin with the sound in a shot", () => {
    expect(Object.keys(beginning(true).forms)).toContain("sound");
    expect(Object.keys(beginning(false).forms)).not.toContain("sound");
  });

  it("switch forms on and off and keep what one is set to", () => {
    const on = withSettings(withForm(beginning(false), "bvh", true), "bvh", { up: "z" });
    expect(on.forms.bvh).toEqual({ up: "z" });
    expect(withForm(on, "bvh", true).forms.bvh).toEqual({ up: "z" });
    expect(withForm(on, "bvh", false).forms.bvh).toBeUndefined();
  });

  it("take the frames of a range", () => {
    expect(withRange(PLAIN, { from: 3, to: 9.6 })).toMatchObject({ first: 3, last: 10 });
    expect(withRange({ ...PLAIN, first: 3, last: 9 }, null)).toEqual(PLAIN);
  });

  it("count what is asked for, a range once", () => {
    expect(changedOptions(PLAIN)).toBe(0);
    expect(changedOptions({ ...PLAIN, first: 3, last: 9, head: false })).toBe(2);
  });

  it("are known again as the preset that they are", () => {
    const presets = { engine, other: { ...engine, pattern: "{shot}" } };
    expect(presetOf(ofPreset(engine), presets)).toBe("engine");
    expect(presetOf({ ...ofPreset(engine), forms: { sound: {}, gltf: {} } }, presets)).toBe("engine");
    expect(presetOf(beginning(false), presets)).toBe("");
  });

  it("keep their range when a preset is chosen, which has none", () => {
    const ranged = ofPreset(engine, { first: 4, last: 9 });
    expect(ranged.options).toMatchObject({ first: 4, last: 9, tolerance: 0.0005 });
    expect(presetOf(ranged, { engine })).toBe("engine");
    expect(asPreset(ranged).options).toMatchObject({ first: null, last: null });
  });
});

it("says sizes in words", () => {
  expect([sizeOf(20), sizeOf(45_300), sizeOf(2_340_000)]).toEqual(["1 kB", "45 kB", "2.3 MB"]);
});

it("shows of many checks what is wrong, wherever it stands", () => {
  const good = Array.from({ length: 12 }, (_, n) => ({ what: `good ${n}`, ok: true, found: "" }));
  const bad = { what: "bad", ok: false, found: "" };
  const shown = telling([...good, bad]);
  expect(shown).toHaveLength(8);
  expect(shown.at(-1)).toBe(bad);
  expect(telling(good.slice(0, 8))).toHaveLength(8);
  const wrong = good.map((c) => ({ ...c, ok: null }));
  expect(telling(wrong)).toHaveLength(12);
});
