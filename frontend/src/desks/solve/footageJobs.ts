// Choosing among jobs and cards. Pure.
import type { CardRow, TakeRow } from "../../api/client";

/** The newest ready card of a performer. */
export function cardFor(cards: CardRow[], performer: string): CardRow | undefined {
  return cards.filter((c) => c.ready && c.performer === performer).pop();
}

/** The clip that looks like a head turn of a performer: by its slate or notes. */
export function turnFor(clips: TakeRow[], performer: string): TakeRow | undefined {
  return clips.filter((t) => t.performer === performer && /\bturn/i.test(`${t.slate} ${t.notes}`)).pop();
}

/** What is known of a card's lens. */
export function lensWords({ how, fov, low, high }: NonNullable<CardRow["lens"]>): string {
  const best = `${fov.toFixed(0)}° top to bottom`;
  return how === "measured" ? `${best}, measured (${low.toFixed(0)} to ${high.toFixed(0)})` : `${best}, ${how}`;
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
