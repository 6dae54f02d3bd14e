import { describe, expect, it } from "vitest";
import type { Change } from "../../api/client";
import { layer } from "../../workspace/fakeShots";
import { channelsAsIn, freshName, keepVersion, lookAt, spanAsItWas, swapVersion, type Kept } from "./layerVersions";

const span = (strength: number) => ({
  first: 1,
  last: 9,
  leadIn: 6,
  leadOut: 6,
  offset: { jawOpen: 0.4 },
  strength,
  ease: "smooth",
  curves: {},
  origin: 0,
});
const keys = (value: number) => ({ k: [8, value, 0, 0, "flat"] as [number, number, number, number, "flat"] });
const body = (kept: Record<string, Kept> = {}) =>
  layer("lip", { keys: { jawOpen: keys(0.7) }, spans: { s: span(1) }, kept }).body;
const earlier = (name = "version 1"): Kept => ({
  ...(keepVersion(body(), "v")[0]!.value as Kept),
  name,
  keys: { jawOpen: keys(0.2), cheekPuff: keys(0.1) },
  spans: { s: span(0.5) },
});
const at = (changes: Change[], path: string) => changes.find((c) => c.path === path);

describe("versions of a layer", () => {
  it("are kept whole, each under a name of its own", () => {
    const [change] = keepVersion(body(), "v");
    expect(change).toMatchObject({ path: "kept/v", value: { name: "version 1", does: "add", spans: { s: span(1) } } });
    expect(freshName(body({ a: earlier("version 2") }))).toBe("version 3");
  });
  it("are swapped: nothing of either is lost, and twice is as before", () => {
    const before = body({ v: earlier() });
    const swapped = swapVersion(before, "v");
    expect(at(swapped, "keys")!.value).toEqual(earlier().keys);
    expect(at(swapped, "kept/v")!.value).toMatchObject({ name: "version 1", keys: before.keys, spans: before.spans });
    const after = {
      ...before,
      keys: earlier().keys,
      spans: earlier().spans,
      kept: { v: at(swapped, "kept/v")!.value as Kept },
    };
    expect(at(swapVersion(after, "v"), "keys")!.value).toEqual(before.keys);
  });
  it("are looked at without the kept ones being touched", () => {
    expect(lookAt(body({ v: earlier() }), "v").map((c) => c.path)).not.toContain("kept/v");
  });
  it("give back single channels", () => {
    const changes = channelsAsIn(body({ v: earlier() }), "v", ["jawOpen", "cheekPuff", "browInnerUp"]);
    expect(changes).toEqual([
      { path: "keys/jawOpen", value: keys(0.2) },
      { path: "keys/cheekPuff", value: keys(0.1) },
    ]);
    const without = { ...earlier(), keys: {} };
    expect(channelsAsIn(body({ v: without }), "v", ["jawOpen"])).toEqual([{ path: "keys/jawOpen", remove: true }]);
  });
  it("give back a span as the newest of them has it otherwise", () => {
    const both = body({ a: earlier(), b: { ...earlier("version 2"), spans: { s: span(0.8) } } });
    expect(spanAsItWas(both, "s")).toEqual([{ path: "spans/s", value: span(0.8) }]);
    expect(spanAsItWas(body(), "s")).toBeNull();
  });
});
