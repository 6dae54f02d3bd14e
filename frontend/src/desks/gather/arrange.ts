// Which takes are listed, and in which order. Pure.
import type { TakeRow } from "../../api/client";

export type Order = "added" | "slate" | "performer" | "length";

export function arranged(takes: TakeRow[], text: string, order: Order, archived: boolean): TakeRow[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = takes.filter((t) => t.archived === archived && words.every((w) => `${t.slate} ${t.performer} ${t.notes} ${t.holds.join(" ")}`.toLowerCase().includes(w)));
  const by: Record<Order, (a: TakeRow, b: TakeRow) => number> = {
    added: () => 0,
    slate: (a, b) => a.slate.localeCompare(b.slate, undefined, { numeric: true }),
    performer: (a, b) => a.performer.localeCompare(b.performer) || a.slate.localeCompare(b.slate, undefined, { numeric: true }),
    length: (a, b) => b.seconds - a.seconds,
  };
  return [...rows].sort(by[order]);
}
