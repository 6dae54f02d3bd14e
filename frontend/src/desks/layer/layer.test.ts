import { beforeEach, describe, expect, it, vi } from "vitest";
import { toNumber } from "../../shared/seconds";
import { layersOf, nameOfRole, rolesOf } from "../../workspace/state";
import { layer, placement, shotState } from "../../workspace/fakeShots";
import {
  inFolders,
  blocksOf,
  goesOnFrom,
  lengthOf,
  lettersOf,
  placementDragged,
  rankAbove,
  rowsOf,
  slipped,
  spanAgain,
  spanChanges,
  takenApart,
} from "./shotModel";

const clock = vi.hoisted(() => ({ frame: 10, range: null as { from: number; to: number } | null }));
vi.mock("../../playback/clock", () => ({ clock }));
vi.mock("../../workspace/workspace", () => ({
  activeShot: () => null,
  useWorkspace: { getState: () => ({ selected: [] }) },
}));
const { chooseSpan, fold, landing, saidOf, useLayerDesk } = await import("./layerState");
const { LAYER_COMMANDS, smoothChanges } = await import("./layerCommands");
const { KEY_COMMANDS } = await import("../../keys/keyCommands");
const { bothSides, inWords, otherSide } = await import("./grab");

const at = (changes: { path: string; value?: unknown }[], field: string) =>
  changes.find((c) => c.path.endsWith(field))?.value;

describe("clips in the deck", () => {
  it("lie where they are placed, as long as they last", () => {
    const blocks = blocksOf(shotState(), "odile", "one");
    expect(blocks.map((b) => [b.from, b.to, b.chosen])).toEqual([
      [0, 120, true],
      [120, 180, false],
    ]);
  });
  it("say that their take has changed since it was looked at", () => {
    const shot = shotState({ takes: { clip: "new" } });
    shot.opened.shot.body.roles.odile!.placements.one!.seen = "old";
    expect(blocksOf(shot, "odile", null).map((b) => b.note)).toEqual(["take changed", ""]);
  });
  it("say what of their take they show where it has a body", () => {
    const shot = shotState();
    shot.opened.clips[0]!.body = true;
    shot.opened.shot.body.roles.odile!.placements.one!.shows = "both";
    expect(blocksOf(shot, "odile", null).map((b) => b.note)).toEqual(["face and body", "face"]);
  });
  it("are taken apart into a face, and a silent body on the first lane with room", () => {
    const one = placement({ shows: "both", start: "1" });
    const changes = takenApart("odile", { one, low: placement({ lane: 1, start: "5" }) }, "one", "new");
    expect(changes[0]).toEqual({ path: "roles/odile/placements/one/shows", value: "face" });
    expect(changes[1]!.value).toEqual({ ...one, shows: "body", sound: false, lane: 1 });
    const full = takenApart("odile", { one, low: placement({ lane: 1, start: "2" }) }, "one", "new");
    expect(full[1]!.value).toMatchObject({ lane: 2 });
  });
  it("go on from the last body before them on their lane", () => {
    const body = (start: string, more = {}) => placement({ shows: "body", start, ...more });
    const all = {
      first: body("0"),
      second: body("2"),
      face: placement({ start: "3" }),
      mute: body("3", { mute: true }),
      other: body("3", { lane: 1 }),
      last: body("4"),
    };
    expect(goesOnFrom(all, "last")).toBe("second");
    expect(goesOnFrom(all, "first")).toBeNull();
  });
  it("show where a repeated stretch begins anew", () => {
    const shot = shotState();
    shot.opened.shot.body.roles.odile!.placements.one!.repeats = "5/2";
    expect(blocksOf(shot, "odile", null)[0]!.passes).toEqual([120, 240]);
  });
  it("are moved by frames, exactly", () => {
    expect(placementDragged("p", placement(), "move", 7, "24000/1001", 3)).toEqual([
      { path: "p/start", value: "7007/24000" },
    ]);
  });
  it("are trimmed at both ends, no further than their take goes", () => {
    const begun = placementDragged("p", placement({ first: "1/2", start: "1" }), "begin", 12, "60", 3);
    expect([at(begun, "first"), at(begun, "start")]).toEqual(["7/10", "6/5"]);
    const held = placementDragged("p", placement({ first: "1/2", start: "1" }), "begin", -60, "60", 3);
    expect([at(held, "first"), at(held, "start")]).toEqual(["0", "1/2"]);
    expect(at(placementDragged("p", placement(), "end", 30, "60", 3), "last")).toBe("5/2");
    expect(at(placementDragged("p", placement(), "end", 300, "60", 3), "last")).toBe("3");
    expect(toNumber(at(placementDragged("p", placement(), "end", -600, "60", 3), "last") as string)).toBeGreaterThan(0);
  });
  it("take their speed into account", () => {
    const fast = placementDragged("p", placement({ speed: "2" }), "end", -30, "60", 3);
    expect(at(fast, "last")).toBe("1");
    expect(lengthOf(placement({ speed: "2", repeats: "3" }))).toBe("3");
  });
  it("repeat more often when the end of a repeated one is dragged", () => {
    expect(at(placementDragged("p", placement({ repeats: "2" }), "end", 60, "60", 3), "repeats")).toBe("5/2");
  });
  it("slip inside their edges as far as the take goes", () => {
    const by = (frames: number) =>
      slipped("p", placement({ first: "1/2", last: "3/2" }), frames, "60", 3).map((c) => c.value);
    expect(by(30)).toEqual(["1", "2"]);
    expect(by(-60)).toEqual(["0", "1"]);
    expect(by(600)).toEqual(["2", "3"]);
  });
});

describe("roles and layers", () => {
  it("come in their order, layers from the top down, put-away ones left out", () => {
    const shot = shotState();
    expect(rolesOf(shot)).toEqual(["odile", "brindle"]);
    expect(nameOfRole(shot, "odile")).toBe("Mara Quill");
    shot.opened.layers = [
      layer("low"),
      layer("high", { rank: 2 }),
      layer("gone", { archived: true }),
      layer("other", { role: "brindle" }),
    ];
    expect(layersOf(shot, "odile").map((l) => l.id)).toEqual(["high", "low"]);
  });
  it("are rows with their spans, keys, makers and what counts", () => {
    const layers = [layer("a", { solo: true, regions: { lips: true, jaw: true } }), layer("b")];
    layers[0]!.body.spans = {
      s: {
        first: 3,
        last: 9,
        leadIn: 2,
        leadOut: 4,
        offset: { jawOpen: 1 },
        strength: 1,
        ease: "smooth",
        curves: {},
        origin: 0,
      },
    };
    layers[0]!.body.keys = { jawOpen: { k: [5, 0.2, 0, 0, "flat"] } };
    layers[1]!.body.makers = { m: { maker: "blinks", on: true, rank: 1 } };
    const rows = rowsOf(layers, "a", "s", { jawOpen: "jaw" }, false);
    expect(rows.map((r) => [r.key, r.open, r.off, r.letters, r.makers])).toEqual([
      ["a", true, false, "JP", ""],
      ["b", false, true, "", "blinks"],
    ]);
    expect(rows[0]!.spans[0]).toMatchObject({ first: 3, last: 9, chosen: true });
    expect(rows[0]!.marks).toEqual([5]);
    expect(lettersOf({ head: true, lids: false })).toBe("H");
  });
  it("drag a span by its middle, its ends and its leads", () => {
    const span = {
      first: 10,
      last: 20,
      leadIn: 4,
      leadOut: 6,
      offset: {},
      strength: 1,
      ease: "smooth",
      curves: {},
      origin: 10,
    };
    const by = (edge: "move" | "first" | "last" | "leadIn" | "leadOut", frames: number) =>
      Object.fromEntries(
        spanChanges(span, { layer: "l", key: "s", edge, by: frames }).map((c) => [c.path.split("/").pop(), c.value]),
      );
    expect(by("move", 3)).toEqual({ first: 13, last: 23, origin: 13 });
    expect(by("first", 15)).toEqual({ first: 20 });
    expect(by("last", -15)).toEqual({ last: 10 });
    expect(by("leadIn", -3)).toEqual({ leadIn: 7 });
    expect(by("leadOut", -9)).toEqual({ leadOut: 0 });
    expect(by("move", 0)).toEqual({});
  });
});

describe("folders of layers", () => {
  it("hold layers that lie beside each other", () => {
    const named = ["", "eyes", "eyes", "", "eyes"].map((folder, i) => layer(`l${i}`, { folder }));
    expect(inFolders(named).map(({ folder, own }) => [folder, own.length])).toEqual([
      ["", 1],
      ["eyes", 2],
      ["", 1],
      ["eyes", 1],
    ]);
  });
});

describe("where a change of the face lands", () => {
  beforeEach(() => {
    clock.range = null;
    clock.frame = 8;
    useLayerDesk.setState({ span: null, brush: 0 });
  });
  const spanned = layer("lip", {
    spans: {
      s: {
        first: 1,
        last: 2,
        leadIn: 6,
        leadOut: 6,
        offset: { jawOpen: 0.4 },
        strength: 1,
        ease: "smooth",
        curves: {},
        origin: 0,
      },
    },
    keys: { jawOpen: { k: [8, 0.7, 0, 0, "flat"] } },
  });
  it("is keys at the playhead", () => {
    expect(landing(spanned, { jawOpen: 0.1 }, "new").changes[0]!.path).toMatch(/^keys\/jawOpen\//);
    expect(landing(layer("x"), { cheekPuff: 0.1 }, "new").changes[0]!.path).toBe("keys/cheekPuff");
    expect(saidOf(spanned, "jawOpen", 9)).toBe(0.7);
    expect(saidOf(spanned, "cheekPuff", 9)).toBe(0);
  });
  it("is a new span over a marked range, which begins at nothing", () => {
    clock.range = { from: 5, to: 25 };
    const made = landing(spanned, { jawOpen: 0.1 }, "new");
    expect(made).toMatchObject({
      span: "new",
      changes: [{ path: "spans/new", value: { first: 5, last: 25, offset: { jawOpen: 0.1 } } }],
    });
    expect(saidOf(spanned, "jawOpen", 9)).toBe(0);
    expect(saidOf(layer("x", { does: "scale" }), "jawOpen", 9)).toBe(1);
  });
  it("is the chosen span, whatever is marked", () => {
    clock.range = { from: 5, to: 25 };
    chooseSpan({ layer: "lip", key: "s" });
    expect(landing(spanned, { jawOpen: 0.1 }, "new").changes).toEqual([{ path: "spans/s/offset/jawOpen", value: 0.1 }]);
    expect(saidOf(spanned, "jawOpen", 9)).toBe(0.4);
  });
  it("takes the place of a curve that a span has for the channel", () => {
    chooseSpan({ layer: "lip", key: "s" });
    const span = { ...spanned.body.spans.s!, offset: {}, curves: { jawOpen: [[0, 0.2, 0, 0, "free"]] } };
    const curved = layer("lip", { spans: { s: span as never } });
    expect(landing(curved, { jawOpen: 0.1, mouthPucker: 0.3 }, "new").changes).toEqual([
      { path: "spans/s/offset/jawOpen", value: 0.1 },
      { path: "spans/s/offset/mouthPucker", value: 0.3 },
      { path: "spans/s/curves/jawOpen", remove: true },
    ]);
  });
});

describe("with the brush, a change of the face", () => {
  const stroke = {
    first: 30,
    last: 30,
    leadIn: 12,
    leadOut: 12,
    offset: { jawOpen: 0.3 },
    strength: 1,
    ease: "smooth",
    curves: {},
    origin: 0,
  };
  const brushed = layer("lip", { spans: { s: stroke } });
  beforeEach(() => {
    clock.range = null;
    clock.frame = 30;
    useLayerDesk.setState({ brush: 12, span: null });
  });
  it("comes and goes about the playhead", () => {
    expect(landing(layer("lip"), { jawOpen: 0.2 }, "new")).toMatchObject({
      span: "new",
      changes: [{ value: { first: 30, last: 30, leadIn: 12, leadOut: 12, offset: { jawOpen: 0.2 } } }],
    });
  });
  it("adds to the stroke that was made there, and is another one elsewhere", () => {
    chooseSpan({ layer: "lip", key: "s" });
    expect(landing(brushed, { jawOpen: 0.5 }, "new").changes[0]!.path).toBe("spans/s/offset/jawOpen");
    expect(saidOf(brushed, "jawOpen", 30)).toBe(0.3);
    clock.frame = 80;
    expect(landing(brushed, { jawOpen: 0.5 }, "new").span).toBe("new");
    expect(saidOf(brushed, "jawOpen", 80)).toBe(0);
  });
  it("is a span over a range where one is marked", () => {
    clock.range = { from: 5, to: 25 };
    expect(landing(layer("lip"), { jawOpen: 0.2 }, "new").changes[0]!.value).toMatchObject({ first: 5, last: 25 });
  });
});

describe("taking hold of the face", () => {
  const known = ["jawOpen", "mouthSmileLeft", "mouthSmileRight"];
  it("says what is changed, the largest first", () => {
    expect(inWords({ jawOpen: 0.1, mouthSmileLeft: -0.314 }, 1)).toBe("mouthSmileLeft -0.31 and 1 more");
  });
  it("goes for both sides where they are to go together", () => {
    expect(bothSides({ mouthSmileLeft: 0.2, jawOpen: 0.1 }, known)).toEqual({
      mouthSmileLeft: 0.2,
      mouthSmileRight: 0.2,
      jawOpen: 0.1,
    });
    expect(otherSide("mouthSmileRight", known)).toBe("mouthSmileLeft");
    expect(otherSide("jawOpen", known)).toBe("jawOpen");
  });
});

describe("blocking", () => {
  const table = {
    a: [0, 0, 0, 0, "stepped"],
    b: [10, 1, 0, 0, "stepped"],
    c: [20, 0, 0.1, 0.1, "smooth"],
    d: [30, 1, 0, 0, "linear"],
  };
  const posed = layer("poses", { keys: { jawOpen: table, cheekPuff: { a: [10, 1, 0, 0, "stepped"] } } as never });
  it("is smoothed from a frame on: chosen channels, or all where none of them has keys", () => {
    expect(smoothChanges(posed, ["jawOpen"], 10).map((c) => c.path)).toEqual(["keys/jawOpen/b", "keys/jawOpen/d"]);
    expect(smoothChanges(posed, ["mouthPucker"], 10).map((c) => c.path)).toContain("keys/cheekPuff/a");
    expect(smoothChanges(posed, ["jawOpen"], 10)[0]!.value).toEqual([10, 1, 0, 0, "smooth"]);
  });
  it("is smoothed within a range alone, and what is smooth already stays", () => {
    expect(smoothChanges(posed, ["jawOpen"], 5, 25).map((c) => c.path)).toEqual(["keys/jawOpen/b"]);
    expect(smoothChanges(posed, ["jawOpen"], 15, 25)).toEqual([]);
  });
  it("folds lanes of the deck one by one", () => {
    const before = useLayerDesk.getState().folded.words;
    fold("words");
    expect(useLayerDesk.getState().folded.words).toBe(!before);
    fold("words");
    expect(useLayerDesk.getState().folded.words).toBe(before);
  });
});

describe("the order of layers", () => {
  const list = [layer("top", { rank: 3 }), layer("middle", { rank: 2 }), layer("bottom", { rank: 1 })];
  it("puts a layer right above another, on top of all or between two", () => {
    expect(rankAbove(list, "bottom", "top")).toBe(4);
    expect(rankAbove(list, "bottom", "middle")).toBe(2.5);
    expect(rankAbove(list, "top", "bottom")).toBe(1.5);
  });
  it("changes nothing where it lies there already", () => {
    expect(rankAbove(list, "top", "middle")).toBeNull();
    expect(rankAbove(list, "middle", "middle")).toBeNull();
  });
});

describe("a span again", () => {
  it("is as long, and says the same", () => {
    const span = {
      first: 10,
      last: 30,
      leadIn: 4,
      leadOut: 6,
      offset: { jawOpen: 0.2 },
      strength: 0.5,
      ease: "late",
      curves: {},
      origin: 0,
    };
    expect(spanAgain(span as never, 100)).toEqual({ ...span, first: 100, last: 120, origin: 90 });
  });
});

describe("the commands of the desk", () => {
  const all = [...LAYER_COMMANDS, ...KEY_COMMANDS];
  it("each have a name and an id of their own, and do something or are a gesture", () => {
    expect(new Set(all.map((c) => c.id)).size).toBe(all.length);
    expect(new Set(all.map((c) => c.name)).size).toBe(all.length);
    expect(all.filter((c) => !c.run === !c.gesture)).toEqual([]);
  });
  it("share no key with those of keys but Delete, which is theirs while some are chosen", () => {
    const keys = all.flatMap((c) => c.keys ?? []);
    expect(keys.filter((k, i) => keys.indexOf(k) !== i)).toEqual(["Delete"]);
    expect(KEY_COMMANDS.find((c) => c.id === "keys.delete")!.when!()).toBe(false);
  });
});
