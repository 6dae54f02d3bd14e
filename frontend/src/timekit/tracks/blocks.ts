// Blocks in a lane, such as placed clips: moved by their middle, trimmed at their ends.
import { frameToX, type TimeAxis } from "../timeAxis";
import type { Band, Gesture, Point, Press, Stage, Track } from "../track";

/** from, to: frames, the end not included; fadeIn, fadeOut: frames; passes: frames at which a repeated stretch begins anew; note:
 * what stands behind the label, such as that something has changed. */
export type Block = {
  key: string;
  lane: number;
  from: number;
  to: number;
  label: string;
  note: string;
  chosen: boolean;
  mute: boolean;
  fadeIn: number;
  fadeOut: number;
  passes: number[];
};
export type Hold = "move" | "begin" | "end";
export type Blocks = {
  id: string;
  caption: string;
  active: boolean;
  lanes: number;
  blocks: Block[];
  /** What is under way: which block is moved by how many frames, and how. */
  drag: () => { key: string; hold: Hold; by: number } | null;
  onPress: (key: string | null) => void;
  onDrag: (key: string, hold: Hold, by: number) => void;
  onDrop: (key: string, hold: Hold, by: number) => void;
};
const CAPTION = 13; // above the blocks, where there is one
const CLOSE = 14; // pixels between marks in a block; nearer ones would hide its name
const LANE = 22;
const EDGE = 7; // pixels at each end that trim
const NEAR = 6; // pixels within which an end snaps to another

export function blockTrack(of: Blocks): Track {
  const shownOf = (): Block[] => {
    const drag = of.drag();
    return of.blocks.map((b) => (b.key === drag?.key ? dragged(b, drag.hold, drag.by) : b));
  };
  const above = of.caption ? CAPTION : 0;
  const lanes = Math.max(of.lanes, 1);
  const tallOf = (band: Band) => (band.height - above - 2) / lanes;
  const under = (stage: Stage, band: Band, at: Point) =>
    blockAt(stage.axis, of.blocks, of.lanes, at.x, at.y - band.top - above, tallOf(band));
  return {
    id: of.id,
    height: above + LANE * lanes + 2,
    grows: true,
    draw: (stage, band) => {
      const { top, height } = band;
      const tall = tallOf(band);
      const { context: c, palette, width } = stage;
      c.globalAlpha = 1;
      c.fillStyle = palette.lane;
      c.fillRect(0, top, width, height - 1);
      c.fillStyle = of.active ? palette.accent : palette.dim;
      c.fillText(of.caption, 6, top + CAPTION / 2);
      for (const block of shownOf()) drawBlock(stage, block, top + above + laneOf(block, of.lanes) * tall, tall);
      c.globalAlpha = 1;
    },
    press: (stage, band, at) => {
      const block = under(stage, band, at);
      of.onPress(block?.key ?? null);
      return block ? holding(stage, of, block, at) : null;
    },
    say: (stage, band, at) => {
      const block = under(stage, band, at);
      return (
        block &&
        `${block.label}  ${Math.round(block.from)} to ${Math.round(block.to) - 1}${block.note && `  ${block.note}`}`
      );
    },
  };
}

/** The highest lane lies on top. */
const laneOf = (block: Block, lanes: number) => lanes - 1 - Math.min(block.lane, lanes - 1);

export const dragged = (block: Block, hold: Hold, by: number): Block => ({
  ...block,
  from: hold === "end" ? block.from : block.from + by,
  to: hold === "begin" ? block.to : block.to + by,
});

/** The block at a place, y from the top of the lanes, each `tall` pixels; of those that overlap the later one. Pure. */
export function blockAt(
  axis: TimeAxis,
  blocks: Block[],
  lanes: number,
  x: number,
  y: number,
  tall = LANE,
): Block | null {
  const row = Math.floor(y / tall);
  if (y < 0) return null;
  const under = blocks.filter(
    (b) => laneOf(b, lanes) === row && x >= frameToX(axis, b.from) - 2 && x <= frameToX(axis, b.to) + 2,
  );
  return under.sort((a, b) => b.from - a.from)[0] ?? null;
}

/** Which part of a block a press takes hold of. Pure. */
export function holdAt(axis: TimeAxis, block: Block, x: number): Hold {
  const [from, to] = [frameToX(axis, block.from), frameToX(axis, block.to)];
  const edge = Math.min(EDGE, (to - from) / 4);
  return x < from + edge ? "begin" : x > to - edge ? "end" : "move";
}

/** Frames by which a drag goes, snapped to the ends of other blocks, to the playhead and to whole frames. Pure. */
export function snapped(block: Block, hold: Hold, by: number, ends: number[], reach: number): number {
  const own = hold === "end" ? [block.to] : hold === "begin" ? [block.from] : [block.from, block.to];
  let best = Math.round(by);
  let nearest = reach;
  for (const end of ends)
    for (const edge of own) {
      const off = Math.abs(edge + by - end);
      if (off < nearest) [nearest, best] = [off, end - edge];
    }
  return best;
}

function holding(stage: Stage, of: Blocks, block: Block, begun: Press): Gesture {
  const hold = holdAt(stage.axis, block, begun.x);
  const perPixel = (stage.axis.to - stage.axis.from) / stage.axis.width;
  const ends = [0, stage.frame, ...of.blocks.filter((b) => b.key !== block.key).flatMap((b) => [b.from, b.to])];
  const by = (p: Press) => snapped(block, hold, (p.x - begun.x) * perPixel, p.adding ? [] : ends, NEAR * perPixel);
  let moved = false;
  return {
    move: (p) => {
      moved ||= Math.abs(p.x - begun.x) > 2;
      if (moved) of.onDrag(block.key, hold, by(p));
    },
    release: (p) => {
      if (moved) of.onDrop(block.key, hold, by(p));
    },
  };
}

function drawBlock({ context: c, axis, palette, width }: Stage, block: Block, top: number, tall: number) {
  const x = frameToX(axis, block.from);
  const wide = Math.max(4, frameToX(axis, block.to) - x);
  if (x > width || x + wide < 0) return;
  const high = tall - 3;
  c.setLineDash([]);
  c.globalAlpha = block.mute ? 0.06 : block.chosen ? 0.26 : 0.15;
  c.fillStyle = palette.paper;
  c.beginPath();
  const [rise, fall] = [block.fadeIn, block.fadeOut].map((f) => Math.min(frameToX(axis, f) - frameToX(axis, 0), wide));
  c.moveTo(x, top + high);
  c.lineTo(x + rise!, top);
  c.lineTo(x + wide - fall!, top);
  c.lineTo(x + wide, top + high);
  c.closePath();
  c.fill();
  c.globalAlpha = block.mute ? 0.4 : 0.85;
  c.strokeStyle = block.chosen ? palette.accent : palette.dim;
  c.lineWidth = block.chosen ? 1.5 : 1;
  c.strokeRect(Math.round(x) + 0.5, top + 0.5, Math.round(wide) - 1, high - 1);
  c.globalAlpha = 0.6;
  const close = block.passes.length > 1 && wide / (block.passes.length + 1) < CLOSE;
  for (const pass of close ? [] : block.passes) {
    const at = Math.round(frameToX(axis, pass)) + 0.5;
    c.beginPath();
    c.moveTo(at, top + 3);
    c.lineTo(at, top + high - 3);
    c.stroke();
  }
  c.save();
  c.beginPath();
  c.rect(x, top, wide - 2, high);
  c.clip();
  c.globalAlpha = block.mute ? 0.5 : 1;
  c.fillStyle = palette.text;
  const from = Math.max(x, 0) + 6;
  c.fillText(block.label, from, top + high / 2);
  if (block.note) {
    c.fillStyle = palette.accent;
    c.fillText(block.note, from + c.measureText(block.label).width + 8, top + high / 2);
  }
  c.restore();
}
