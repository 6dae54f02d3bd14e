// How far two sets of curves are apart, in numbers. Pure.
import type { Table } from "../api/bundle";

export type Difference = { rms: number; peak: number; jitterBefore: number; jitterAfter: number };

export function difference(
  raw: Float32Array,
  tidied: Float32Array,
  count: number,
  column: number,
  rate: number,
): Difference {
  const frames = tidied.length / count;
  let sum = 0;
  let known = 0;
  let peak = 0;
  for (let f = 0; f < frames; f++) {
    const by = tidied[f * count + column]! - raw[f * count + column]!;
    if (by !== by) continue;
    sum += by * by;
    known++;
    if (Math.abs(by) > peak) peak = Math.abs(by);
  }
  return {
    rms: known ? Math.sqrt(sum / known) : 0,
    peak,
    jitterBefore: jitter(raw, count, column, rate),
    jitterAfter: jitter(tidied, count, column, rate),
  };
}

/** RMS of the third difference, units/s^3. */
export function jitter(data: Float32Array, count: number, column: number, rate: number): number {
  const frames = data.length / count;
  let sum = 0;
  let known = 0;
  for (let f = 3; f < frames; f++) {
    const at = f * count + column;
    const third = data[at]! - 3 * data[at - count]! + 3 * data[at - 2 * count]! - data[at - 3 * count]!;
    if (third !== third) continue;
    sum += third * third;
    known++;
  }
  return known ? Math.sqrt(sum / known) * rate ** 3 : 0;
}

/** Another table (frames, channels) on the frames and channels of `to`: its frame f + shift at frame f; NaN where it has none. */
export function alignedTo(
  to: { frames: number; channels: string[] },
  other: Table,
  channels: string[],
  shift: number,
): Table {
  const count = to.channels.length;
  const data = new Float32Array(to.frames * count).fill(NaN);
  const [frames, width] = other.shape as [number, number];
  to.channels.forEach((name, column) => {
    const from = channels.indexOf(name);
    if (from < 0) return;
    for (let f = Math.max(0, -shift); f < to.frames && f + shift < frames; f++)
      data[f * count + column] = other.data[(f + shift) * width + from]!;
  });
  return { data, shape: [to.frames, count] };
}
