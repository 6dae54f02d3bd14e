// The value axis: which values lie where. Pure.
export type ValueAxis = { low: number; high: number; top: number; bottom: number };

export const valueToY = (axis: ValueAxis, value: number): number =>
  axis.bottom - ((value - axis.low) / (axis.high - axis.low)) * (axis.bottom - axis.top);
export const yToValue = (axis: ValueAxis, y: number): number =>
  axis.low + ((axis.bottom - y) / (axis.bottom - axis.top)) * (axis.high - axis.low);

/** Lines at round values, about `room` pixels apart. */
export function valueMarks(axis: ValueAxis, room = 34): number[] {
  const least = (room / Math.max(axis.bottom - axis.top, 1)) * (axis.high - axis.low);
  const power = 10 ** Math.floor(Math.log10(least));
  const step = [1, 2, 5, 10].map((s) => s * power).find((s) => s >= least)!;
  const marks: number[] = [];
  for (let v = Math.ceil(axis.low / step) * step; v <= axis.high + 1e-9; v += step)
    marks.push(Math.abs(v) < 1e-12 ? 0 : v);
  return marks;
}

/** Low and high of what is shown, with some air; weights keep 0..1 in sight. */
export function rangeOf(lows: number[], highs: number[], weights: boolean): { low: number; high: number } {
  let low = Math.min(...lows, weights ? 0 : Infinity);
  let high = Math.max(...highs, weights ? 1 : -Infinity);
  if (!Number.isFinite(low) || !Number.isFinite(high)) [low, high] = [0, 1];
  if (high - low < 1e-6) [low, high] = [low - 0.5, high + 0.5];
  const air = (high - low) * 0.06;
  return { low: low - air, high: high + air };
}
