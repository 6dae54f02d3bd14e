// How active each half of each band is. Pure.
import { fullScale, sideOf, type Side } from "../shared/regions";
import type { Curves } from "../workspace/workspace";

export type Half = { region: string; side: Side; columns: { index: number; scale: number }[]; names: string[] };

/** The halves of the chart: channels of a region by side; those of the middle belong to both halves. */
export function halves(channels: string[], regionOf: Record<string, string>, regions: readonly string[]): Half[] {
  return regions.flatMap((region) =>
    (["right", "left"] as const).map((side) => {
      const names = channels.filter((c) => regionOf[c] === region && (sideOf(c) === side || sideOf(c) === "middle"));
      return { region, side, names, columns: names.map((n) => ({ index: channels.indexOf(n), scale: fullScale(n) })) };
    }),
  );
}

/** The strongest channel of a half at a frame, 0..1. */
export function activity(half: Half, curves: Curves, frame: number): number {
  const count = curves.channels.length;
  let most = 0;
  for (const { index, scale } of half.columns) {
    const value = Math.abs(curves.tidied.data[frame * count + index]!) / scale;
    if (value > most) most = value;
  }
  return Math.min(most, 1);
}

/** The next selection when a half is chosen: alone, or added to and taken from what is chosen. */
export function chosen(selected: string[], names: string[], adding: boolean): string[] {
  if (!adding) return names;
  const all = names.every((n) => selected.includes(n));
  return all ? selected.filter((n) => !names.includes(n)) : [...new Set([...selected, ...names])];
}
