import { beforeEach, describe, expect, it, vi } from "vitest";
import { arranged, GRIP, gripAt, kindOf, pulled, scrollBar, scrolledTo, trackAt, USUAL, type Sizes } from "./layout";
import { keepSizes, keptSizes } from "./sizes";
import type { Track } from "./track";

const track = (id: string, height: Track["height"], grows = false): Track => ({
  id,
  height,
  grows,
  draw: () => undefined,
});
const deck = [
  track("ruler", 20),
  track("wave", 40, true),
  track("clips a", 30, true),
  track("clips b", 30, true),
  track("curves", "rest"),
];
const tops = (height: number, sizes?: Sizes, scroll?: number) =>
  arranged(deck, height, sizes, scroll).bands.map((b) => b.top);

describe("the tracks of a deck", () => {
  it("lie below one another, and what is left is the curves'", () => {
    const { bands, lanes } = arranged(deck, 400);
    expect(tops(400)).toEqual([0, 20, 60, 90, 120 + GRIP]);
    expect(bands[4]).toEqual({ top: 126, height: 274 });
    expect(lanes).toMatchObject({ top: 20, bottom: 120, need: 100, scroll: 0, boundary: true });
  });
  it("share what is left where several take it, and stand below it with heights of their own", () => {
    const made = arranged([track("ruler", 20), track("a", "rest"), track("c", 30), track("d", "rest")], 250).bands;
    expect(made.map((b) => [b.top, b.height])).toEqual([
      [0, 20],
      [20, 100],
      [120, 30],
      [150, 100],
    ]);
  });
  it("leave the curves their room: lanes beyond it scroll, and no further than to their end", () => {
    const { lanes, bands } = arranged(deck, 146);
    expect(lanes.bottom - lanes.top).toBe(72);
    expect(bands[4]!.height).toBe(48);
    expect(arranged(deck, 146, USUAL, 1000).lanes.scroll).toBe(28);
    expect(tops(146, USUAL, 10).slice(0, 3)).toEqual([0, 10, 50]);
  });
  it("never have less than nothing", () => {
    for (const height of [0, 10, 30, 60])
      for (const band of arranged(deck, height).bands) expect(band.height).toBeGreaterThanOrEqual(0);
  });
  it("are found where they can be seen", () => {
    const { bands, lanes } = arranged(deck, 146, USUAL, 20);
    expect(trackAt(bands, 10)).toBe(0);
    expect(trackAt(bands, 21)).toBe(1);
    expect(trackAt(bands, lanes.bottom - 1)).toBe(3);
    expect(trackAt(bands, lanes.bottom + 1)).toBe(-1); // the boundary
    expect(trackAt(bands, lanes.bottom + GRIP)).toBe(4);
    expect(trackAt(bands, 500)).toBe(-1);
  });
});

describe("sizes of lanes", () => {
  const at = (y: number, x = 300, sizes?: Sizes, height = 400) =>
    gripAt(deck, arranged(deck, height, sizes), 600, x, y);
  it("are taken hold of by lower edges, the boundary and the bar", () => {
    expect(at(123)).toEqual({ kind: "boundary" });
    expect(at(60)).toEqual({ kind: "edge", of: "wave", own: 40 });
    expect(at(91)).toEqual({ kind: "edge", of: "clips", own: 30 });
    expect(at(75)).toBeNull();
    expect(at(10)).toBeNull();
    expect(at(50, 598)).toBeNull(); // nothing to scroll
    expect(at(50, 598, USUAL, 146)).toEqual({ kind: "scroll" });
  });
  it("of one kind are pulled together, within limits", () => {
    const layout = arranged(deck, 400);
    const taller = pulled({ kind: "edge", of: "clips", own: 30 }, USUAL, layout, 15);
    expect(taller.tall).toEqual({ clips: 1.5 });
    expect(
      arranged(deck, 400, taller)
        .bands.map((b) => b.height)
        .slice(1, 4),
    ).toEqual([40, 45, 45]);
    expect(pulled({ kind: "edge", of: "clips", own: 30 }, USUAL, layout, -100).tall.clips).toBe(0.8);
    expect(pulled({ kind: "edge", of: "wave", own: 40 }, USUAL, layout, 1e4).tall.wave).toBe(6);
  });
  it("all together are pulled by the boundary; the curves keep some room", () => {
    const less = pulled({ kind: "boundary" }, USUAL, arranged(deck, 400), -40);
    expect(arranged(deck, 400, less).lanes).toMatchObject({ top: 20, bottom: 80 });
    expect(arranged(deck, 146, { ...USUAL, lanes: 900 }).bands[4]!.height).toBeGreaterThanOrEqual(46);
  });
  it("belong to kinds", () => expect(kindOf({ id: "clips 3fa2 b" })).toBe("clips"));
});

describe("a row that is opened", () => {
  it("comes in sight, moved no further than it must", () => {
    const layout = arranged(deck, 146);
    const room = layout.lanes.bottom - layout.lanes.top;
    expect(scrolledTo(layout, 3, 0, 30)).toBeCloseTo(100 - room);
    expect(scrolledTo(layout, 1, 0, 40)).toBe(0);
    const down = arranged(deck, 146, USUAL, 25);
    expect(scrolledTo(down, 1, 0, 40)).toBeCloseTo(0);
    expect(scrolledTo(down, 4, 0, 40)).toBe(down.lanes.scroll);
  });
  it("is where the bar says", () => {
    expect(scrollBar(arranged(deck, 400))).toBeNull();
    const { lanes } = arranged(deck, 146, USUAL, 1000);
    const bar = scrollBar(arranged(deck, 146, USUAL, 1000))!;
    expect(bar.top + bar.height).toBeCloseTo(lanes.bottom);
  });
});

describe("sizes that are kept", () => {
  const held = new Map<string, string>();
  beforeEach(() => {
    held.clear();
    vi.stubGlobal("localStorage", {
      getItem: (key: string) => held.get(key) ?? null,
      setItem: (key: string, value: string) => void held.set(key, value),
    });
  });
  it("come back by the deck's name", () => {
    keepSizes("Deck of the shot", { lanes: 120, tall: { wave: 2 } });
    expect(keptSizes("Deck of the shot")).toEqual({ lanes: 120, tall: { wave: 2 } });
    expect(keptSizes("Time deck")).toEqual(USUAL);
  });
  it("are the usual ones where nothing can be read", () => {
    held.set("dynaface.lanes.a", "{");
    held.set("dynaface.lanes.b", '{"lanes":"wide","tall":{"wave":null,"clips":2}}');
    expect(keptSizes("a")).toEqual(USUAL);
    expect(keptSizes("b")).toEqual({ lanes: null, tall: { clips: 2 } });
  });
});
