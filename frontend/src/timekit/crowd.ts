// Many curves at once, drawn pixel by pixel: among dozens of lines a canvas path each costs far more than the pixels do.
import { levelFor, type Pyramid } from "./decimate";

export type Crowd = {
  of: Pyramid;
  /** 0xBBGGRR */ colour: number;
  /** row = y0 + value * dy */ y0: number;
  dy: number;
};
/** First frame at the left edge and frames a pixel column. */
export type Columns = { from: number; step: number };

const LINE = 1.1; // thickness in pixels

/** Draws curves over each other into (height, width) pixels of RGBA, little-endian; edges are soft. */
export function drawCrowd(pixels: Uint32Array, width: number, height: number, columns: Columns, crowd: Crowd[]) {
  pixels.fill(0);
  const lows = new Float32Array(width);
  const highs = new Float32Array(width);
  for (const { of, colour, y0, dy } of crowd) {
    columnExtents(of, columns, lows, highs);
    const solid = (0xff000000 | colour) >>> 0;
    let above = NaN; // the column before, in rows
    let below = NaN;
    for (let x = 0; x < width; x++) {
      const high = y0 + highs[x]! * dy;
      const low = y0 + lows[x]! * dy;
      // Columns that do not overlap are joined, so that a steep rise stays a line.
      const top = Math.max((high > below ? below : high) - LINE / 2, 0);
      const bottom = Math.min((low < above ? above : low) + LINE / 2, height);
      above = high;
      below = low;
      if (!(top < bottom)) continue; // out of sight, or no value
      const first = Math.floor(top);
      const last = Math.ceil(bottom) - 1;
      soft(pixels, first * width + x, Math.min(first + 1, bottom) - top, colour);
      for (let at = (first + 1) * width + x, end = last * width + x; at < end; at += width) pixels[at] = solid;
      if (last > first) soft(pixels, last * width + x, bottom - last, colour);
    }
  }
}

function soft(pixels: Uint32Array, at: number, cover: number, colour: number) {
  const alpha = Math.min(cover * 255, 255) | 0;
  if (alpha >= pixels[at]! >>> 24) pixels[at] = ((alpha << 24) | colour) >>> 0;
}

/** Lowest and highest value in each pixel column, NaN where there is none. */
export function columnExtents(of: Pyramid, { from, step }: Columns, lows: Float32Array, highs: Float32Array) {
  const { level, length } = levelFor(of, step);
  if (level < 0) return between(of, from, step, lows, highs);
  const low = of.lows[level]!;
  const high = of.highs[level]!;
  const begin = Math.max(0, Math.ceil(-from / step - 0.5));
  const end = Math.min(lows.length, Math.ceil((low.length * length - from) / step - 0.5));
  lows.fill(NaN);
  highs.fill(NaN);
  for (let x = begin, at = (from + (begin + 0.5) * step) / length; x < end; x++, at += step / length) {
    lows[x] = low[at | 0]!;
    highs[x] = high[at | 0]!;
  }
}

function between(of: Pyramid, from: number, step: number, lows: Float32Array, highs: Float32Array) {
  let before = valueBetween(of, from);
  for (let x = 0; x < lows.length; x++) {
    const end = from + (x + 1) * step;
    const after = valueBetween(of, end);
    let low = before < after || after !== after ? before : after;
    let high = before > after || after !== after ? before : after;
    if (low !== low) low = high = after;
    for (let frame = Math.ceil(end - step); frame < end; frame++) {
      const value = frame >= 0 && frame < of.frames ? of.base[frame]! : NaN;
      if (value < low || low !== low) low = value;
      if (value > high || high !== high) high = value;
    }
    lows[x] = low;
    highs[x] = high;
    before = after;
  }
}

function valueBetween(of: Pyramid, at: number): number {
  const frame = Math.floor(at);
  if (frame < 0 || frame >= of.frames) return NaN;
  const value = of.base[frame]!;
  if (frame + 1 >= of.frames) return value;
  return value + (of.base[frame + 1]! - value) * (at - frame);
}
