// Choosing rows of a list by keys and with Shift. Pure.

/** The row that a key leads to from a row, or null where it leads nowhere. */
export function rowAfter(key: string, from: number, count: number): number | null {
  const to: Record<string, number> = {
    ArrowUp: from - 1,
    ArrowDown: from + 1,
    PageUp: from - 8,
    PageDown: from + 8,
    Home: 0,
    End: count - 1,
  };
  return key in to && count ? Math.min(Math.max(to[key]!, 0), count - 1) : null;
}

export const toggledIn = (chosen: string[], id: string): string[] =>
  chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id];

/** Those chosen so far and all from one row to another, in the order of the list. */
export function chosenTo(ids: string[], chosen: string[], from: string, to: string): string[] {
  const [a, b] = [ids.indexOf(from), ids.indexOf(to)].sort((x, y) => x - y) as [number, number];
  const all = new Set([...chosen, ...ids.slice(Math.max(a, 0), b + 1)]);
  return ids.filter((id) => all.has(id));
}
