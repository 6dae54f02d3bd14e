import { describe, expect, it, vi } from "vitest";
import { testStage } from "./testStage";
import { blockAt, blockTrack, holdAt, snapped, type Block } from "./tracks/blocks";
import { edgeAt, layerTrack, ROW, spanAt, type LayerRow, type LayerSpan } from "./tracks/layers";

const block = (key: string, from: number, to: number, more: Partial<Block> = {}): Block => ({
  key,
  lane: 0,
  from,
  to,
  label: key,
  note: "",
  chosen: false,
  mute: false,
  fadeIn: 0,
  fadeOut: 0,
  passes: [],
  ...more,
});
const press = (x: number, y: number, adding = false) => ({ x, y, adding });

describe("blocks", () => {
  const { axis } = testStage();
  it("are found by place and lane; of those that overlap the later one", () => {
    const blocks = [block("a", 0, 50), block("b", 40, 80), block("c", 10, 20, { lane: 1 })];
    expect(blockAt(axis, blocks, 2, 450, 32)?.key).toBe("b");
    expect(blockAt(axis, blocks, 2, 150, 7)?.key).toBe("c");
    expect(blockAt(axis, blocks, 2, 950, 32)).toBeNull();
    expect(blockAt(axis, blocks, 2, 150, -8)).toBeNull(); // the caption
  });
  it("are taken hold of at their ends or their middle, short ones too", () => {
    expect(["begin", "move", "end"]).toEqual([3, 250, 498].map((x) => holdAt(axis, block("a", 0, 50), x)));
    expect(holdAt(axis, block("a", 0, 2), 10)).toBe("move");
  });
  it("snap to other ends and else to whole frames", () => {
    expect(snapped(block("a", 0, 50), "move", 9.6, [60.25], 1)).toBe(10.25);
    expect(snapped(block("a", 0, 50), "move", 20.4, [60.25], 1)).toBe(20);
    expect(snapped(block("a", 0, 50), "end", 9.6, [10], 1)).toBe(10);
  });
  it("are dragged only once the pointer moves, and say by how much", () => {
    const [onPress, onDrag, onDrop] = [vi.fn(), vi.fn(), vi.fn()];
    const track = blockTrack({
      id: "x",
      caption: "Odile",
      active: true,
      lanes: 1,
      blocks: [block("a", 0, 50)],
      drag: () => null,
      onPress,
      onDrag,
      onDrop,
    });
    const stage = testStage();
    const gesture = track.press!(stage, { top: 0, height: 40 }, press(200, 20));
    expect(onPress).toHaveBeenCalledWith("a");
    if (!gesture || gesture === "taken") throw new Error("no gesture");
    gesture.release(press(201, 20));
    expect(onDrop).not.toHaveBeenCalled();
    gesture.move(press(303, 20));
    gesture.release(press(303, 20));
    expect(onDrag).toHaveBeenCalledWith("a", "move", 10);
    expect(onDrop).toHaveBeenCalledWith("a", "move", 10);
    expect(track.press!(stage, { top: 0, height: 40 }, press(900, 20))).toBeNull();
    expect(track.say!(stage, { top: 0, height: 40 }, { x: 100, y: 20 })).toBe("a  0 to 49");
    track.draw(stage, { top: 0, height: 40 });
    expect(stage.calls.filter((c) => c.what === "fillText").map((c) => c.args[0])).toEqual(["Odile", "a"]);
  });
});

const span = (key: string, first: number, last: number): LayerSpan => ({
  key,
  first,
  last,
  leadIn: 5,
  leadOut: 5,
  strength: 1,
  colour: "lips",
  chosen: false,
});
const row = (key: string, more: Partial<LayerRow> = {}): LayerRow => ({
  key,
  name: key,
  letters: "",
  open: false,
  off: false,
  locked: false,
  spans: [],
  marks: [],
  makers: "",
  weight: () => 1,
  steady: true,
  ...more,
});

describe("layers", () => {
  const { axis } = testStage();
  it("find the shortest span whose leads cover a place", () => {
    const spans = [span("long", 10, 80), span("short", 40, 50)];
    expect(spanAt(axis, spans, 450)?.key).toBe("short");
    expect(spanAt(axis, spans, 62)?.key).toBe("long");
    expect(spanAt(axis, spans, 950)).toBeNull();
  });
  it("take hold of the nearest end or lead, else of the whole span", () => {
    const found = [30, 10, 50, 5, 55].map((f) => edgeAt(span("s", 10, 50), f, 1));
    expect(found).toEqual(["move", "first", "last", "leadIn", "leadOut"]);
  });
  it("open the row that is pressed, drag its spans, and leave locked ones alone", () => {
    const [onOpen, onPress, onDrag, onDrop] = [vi.fn(), vi.fn(), vi.fn(), vi.fn()];
    const rows = [row("top", { spans: [span("s", 10, 50)] }), row("low", { locked: true, spans: [span("t", 10, 50)] })];
    const track = layerTrack({ rows, drag: () => null, onOpen, onPress, onDrag, onDrop });
    const stage = testStage();
    const band = { top: 0, height: 2 * ROW };
    expect(track.height).toBe(2 * ROW);
    const gesture = track.press!(stage, band, press(300, 15));
    expect(onPress).toHaveBeenCalledWith("top", "s");
    if (!gesture || gesture === "taken") throw new Error("no gesture");
    gesture.move(press(350, 15));
    gesture.release(press(350, 15));
    expect(onDrop).toHaveBeenCalledWith({ layer: "top", key: "s", edge: "move", by: 5 });
    expect(track.press!(stage, band, press(300, ROW + 15))).toBeNull();
    expect(onOpen).toHaveBeenCalledWith("low");
    expect(track.say!(stage, band, { x: 300, y: 15 })).toContain("span 10 to 50");
    track.draw(stage, band);
    expect(stage.calls.filter((c) => c.what === "fillText").map((c) => c.args[0])).toEqual(["top", "low   locked"]);
  });
});
