// Which curve lies under the pointer. Pure.
export type Candidate = { name: string; valueAt: (frame: number) => number; toY: (value: number) => number };

/** The curve nearest to y at a frame, no farther than `reach` pixels. */
export function nearest(candidates: Candidate[], frame: number, y: number, reach = 8): string | null {
  let best: string | null = null;
  let distance = reach;
  for (const { name, valueAt, toY } of candidates) {
    const away = Math.abs(toY(valueAt(frame)) - y);
    if (away <= distance) {
      distance = away;
      best = name;
    }
  }
  return best;
}
