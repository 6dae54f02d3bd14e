// Choosing among jobs and cards. Pure.
import type { CardRow, Job } from "../../api/client";

/** Jobs of some kinds, newest first. */
export const jobsOf = (jobs: Job[], kinds: string[]): Job[] => jobs.filter((j) => kinds.includes(j.kind));

/** The newest ready card of a performer. */
export function cardFor(cards: CardRow[], performer: string): CardRow | undefined {
  return cards.filter((c) => c.ready && c.performer === performer).pop();
}

/** Spans of frames in which a value stays below a limit: [first, last] each. */
export function spansBelow(values: Float32Array, limit: number): [number, number][] {
  const out: [number, number][] = [];
  let from = -1;
  for (let i = 0; i <= values.length; i++) {
    const below = i < values.length && values[i]! < limit;
    if (below && from < 0) from = i;
    if (!below && from >= 0) {
      out.push([from, i - 1]);
      from = -1;
    }
  }
  return out;
}
