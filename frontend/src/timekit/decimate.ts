// Lowest and highest of runs of frames, in halves of halves, so that drawing costs what the screen has, not the take.
export type Pyramid = { base: Float32Array; frames: number; lows: Float32Array[]; highs: Float32Array[] };

const FIRST = 2; // frames a cell of the finest level

/** A pyramid over one column of (frames, channels) data; gaps (NaN) are passed over. The column is copied: read with
 *  long strides, it would cost a cache line a frame in each drawing. */
export function pyramid(data: Float32Array, channels: number, column: number): Pyramid {
  const frames = data.length / channels;
  const base = new Float32Array(frames);
  const lows: Float32Array[] = [];
  const highs: Float32Array[] = [];
  let cells = Math.ceil(frames / FIRST);
  let low = new Float32Array(cells).fill(NaN);
  let high = new Float32Array(cells).fill(NaN);
  for (let frame = 0, at = column; frame < frames; frame++, at += channels) {
    const value = (base[frame] = data[at]!);
    const cell = (frame / FIRST) | 0;
    if (!(low[cell]! <= value) && value === value) low[cell] = value;
    if (!(high[cell]! >= value) && value === value) high[cell] = value;
  }
  lows.push(low);
  highs.push(high);
  while (cells > 8) {
    const half = Math.ceil(cells / 2);
    const nextLow = new Float32Array(half);
    const nextHigh = new Float32Array(half);
    for (let i = 0; i < half; i++) {
      const a = 2 * i;
      const b = Math.min(a + 1, cells - 1);
      nextLow[i] = least(low[a]!, low[b]!);
      nextHigh[i] = most(high[a]!, high[b]!);
    }
    lows.push((low = nextLow));
    highs.push((high = nextHigh));
    cells = half;
  }
  return { base, frames, lows, highs };
}

const least = (a: number, b: number) => (a !== a ? b : b !== b ? a : a < b ? a : b);
const most = (a: number, b: number) => (a !== a ? b : b !== b ? a : a > b ? a : b);

/** The coarsest level whose cells are no longer than `framesPerPixel`, or -1 for single frames; its cell's length. */
export function levelFor(of: Pyramid, framesPerPixel: number): { level: number; length: number } {
  if (framesPerPixel < FIRST) return { level: -1, length: 1 };
  const level = Math.min(Math.floor(Math.log2(framesPerPixel / FIRST)), of.lows.length - 1);
  return { level, length: FIRST * 2 ** level };
}

/** Lowest and highest of all. */
export function extent(of: Pyramid): { low: number; high: number } {
  let low = NaN;
  let high = NaN;
  for (const v of of.lows[of.lows.length - 1]!) low = least(low, v);
  for (const v of of.highs[of.highs.length - 1]!) high = most(high, v);
  return { low, high };
}
