// Blink profiles as their editor shows and changes them. Pure.
export type Points = [number, number][];
export type Lid = "upper" | "lower";

const MOST = 12;
const NARROW = 0.02; // between two points
const LEVELS = 24; // pieces of a drawn curve between two points

/** Slopes at the points: level at the ends and at extremes, else between those of both sides. */
function slopes(points: Points): number[] {
  return points.map(([, y], i) => {
    const [before, after] = [points[i - 1], points[i + 1]];
    if (!before || !after) return 0;
    const [left, right] = [(y - before[1]) / (points[i]![0] - before[0]), (after[1] - y) / (after[0] - points[i]![0])];
    return left * right <= 0 ? 0 : (2 * left * right) / (left + right);
  });
}

/** Places along a curve through the points, for drawing it. */
export function curve(points: Points): Points {
  const s = slopes(points);
  const out: Points = [];
  for (let i = 0; i < points.length - 1; i++) {
    const [[x0, y0], [x1, y1]] = [points[i]!, points[i + 1]!];
    const wide = x1 - x0;
    for (let n = 0; n < LEVELS; n++) {
      const t = n / LEVELS;
      const [a, b] = [(1 + 2 * t) * (1 - t) ** 2, t * (1 - t) ** 2];
      const [c, d] = [t * t * (3 - 2 * t), t * t * (t - 1)];
      out.push([x0 + t * wide, a * y0 + b * wide * s[i]! + c * y1 + d * wide * s[i + 1]!]);
    }
  }
  return [...out, points[points.length - 1]!];
}

const rounded = (v: number) => Math.round(v * 1000) / 1000;
const within = (v: number, low: number, high: number) => Math.min(Math.max(v, low), high);

/** A point that is moved: not past its neighbours, and the ends stay where they are. */
export function moved(points: Points, at: number, to: [number, number]): Points {
  if (at <= 0 || at >= points.length - 1) return points;
  const x = within(to[0], points[at - 1]![0] + NARROW, points[at + 1]![0] - NARROW);
  return points.map((p, i) => (i === at ? [rounded(x), rounded(within(to[1], 0, 1))] : p));
}

/** A further point, where there is room for one. */
export function added(points: Points, to: [number, number]): Points {
  const next = points.findIndex(([x]) => x > to[0]);
  const full = points.length >= MOST || next < 1;
  if (full || to[0] - points[next - 1]![0] < NARROW || points[next]![0] - to[0] < NARROW) return points;
  const point: [number, number] = [rounded(to[0]), rounded(within(to[1], 0, 1))];
  return [...points.slice(0, next), point, ...points.slice(next)];
}

/** Without a point; three of them stay. */
export const without = (points: Points, at: number): Points =>
  points.length <= 3 || at <= 0 || at >= points.length - 1 ? points : points.filter((_, i) => i !== at);

/** The point between the ends that is nearest to a place. */
export function nearest(points: Points, to: [number, number]): number {
  const away = ([x, y]: [number, number]) => Math.hypot(x - to[0], y - to[1]);
  let best = 1;
  for (let i = 2; i < points.length - 1; i++) if (away(points[i]!) < away(points[best]!)) best = i;
  return best;
}
