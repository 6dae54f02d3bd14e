// What is put right by hand on followed dots: kept with the take, honoured by every later solve. Pure.

import { freshId } from "../api/changes";
import type { TakeBody } from "../api/client";

export type Correction = TakeBody["dots"][string];
export type Named = { name: string; made: Correction };

/** The corrections of one layout's dots, by frame. */
export function correctionsOf(body: Pick<TakeBody, "dots">, layout: string): Named[] {
  const every = body.dots;
  return Object.entries(every)
    .filter(([, c]) => c.layout === layout)
    .map(([name, made]) => ({ name, made }))
    .sort((a, b) => startOf(a.made) - startOf(b.made));
}

export const startOf = (c: Correction) => ("frame" in c ? c.frame : c.first);

/** A name that no correction of the take has yet; one of the same dot at the same frame is replaced. */
export function nameFor(body: Pick<TakeBody, "dots">, made: Correction): string {
  const every = body.dots;
  const same = Object.entries(every).find(
    ([, c]) =>
      c.kind === made.kind &&
      c.layout === made.layout &&
      c.dot === made.dot &&
      "frame" in c &&
      "frame" in made &&
      c.frame === made.frame,
  );
  return same?.[0] ?? freshId("d");
}

/** First and last frame of each stretch over which a dot is seen, broken at its splits. */
export function stretchesOf(sure: ArrayLike<number>, splits: number[]): [number, number][] {
  const cut = new Set(splits);
  const out: [number, number][] = [];
  for (let f = 0; f < sure.length; f++) {
    if (!(sure[f]! > 0)) continue;
    const last = out[out.length - 1];
    if (last && last[1] === f - 1 && !cut.has(f)) last[1] = f;
    else out.push([f, f]);
  }
  return out;
}

/** In words. */
export function inWords(c: Correction): string {
  if (c.kind === "put") return `${c.dot} put in its place`;
  if (c.kind === "split") return `${c.dot} split`;
  if (c.kind === "drop") return `${c.dot} dropped to ${c.last}`;
  return `${c.dot} is ${c.to} to ${c.last}`;
}

/** Whether what a solve was made with is what is wanted now. */
export function alike(made: Record<string, Correction>, wanted: Named[]): boolean {
  const flat = (c: Correction) => JSON.stringify(Object.entries(c).sort(([a], [b]) => (a < b ? -1 : 1)));
  return (
    Object.keys(made).length === wanted.length &&
    wanted.every((w) => made[w.name] && flat(made[w.name]!) === flat(w.made))
  );
}
