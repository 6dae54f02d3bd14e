// Which takes are listed, in which order, and what files are called as takes. Pure.
import type { TakeRow } from "../../api/client";

export type Order = "added" | "slate" | "performer" | "length";

export function arranged(takes: TakeRow[], text: string, order: Order, archived: boolean): TakeRow[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = takes.filter(
    (t) =>
      t.archived === archived &&
      words.every((w) => `${t.slate} ${t.performer} ${t.notes} ${t.holds.join(" ")}`.toLowerCase().includes(w)),
  );
  const by: Record<Order, (a: TakeRow, b: TakeRow) => number> = {
    added: () => 0,
    slate: (a, b) => a.slate.localeCompare(b.slate, undefined, { numeric: true }),
    performer: (a, b) =>
      a.performer.localeCompare(b.performer) || a.slate.localeCompare(b.slate, undefined, { numeric: true }),
    length: (a, b) => b.seconds - a.seconds,
  };
  return [...rows].sort(by[order]);
}

export const PATTERN = "{slate}";
const FIELDS = ["slate", "take", "performer"] as const;

/** Slate and performer that a file's name says by a pattern such as "{performer}_{slate}_{take}"; null where it does not fit. */
export function named(file: string, pattern: string): { slate: string; performer: string } | null {
  const stem = file.replace(/\.[^.]+$/, "");
  const parts = pattern.split(/\{(\w+)\}/);
  // "{any}" and words that are no field stand for anything; the text between is meant as it is.
  const source = parts
    .map((p, i) =>
      i % 2 === 0
        ? p.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")
        : (FIELDS as readonly string[]).includes(p) && parts.indexOf(p) === i
          ? `(?<${p}>.+?)`
          : ".+?",
    )
    .join("");
  const found = new RegExp(`^${source}$`, "i").exec(stem)?.groups;
  if (!found?.slate) return null;
  const words = (text: string) => text.replace(/[_]+/g, " ").trim();
  return {
    slate: found.take ? `${words(found.slate)} / ${words(found.take)}` : words(found.slate),
    performer: words(found.performer ?? ""),
  };
}
