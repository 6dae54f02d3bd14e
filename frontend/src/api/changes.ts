// Changes of documents as leaf paths: only what somebody changed is sent, so that others' work beside it stays. Pure.
import type { Change } from "./client";

type Plain = Record<string, unknown>;
const isTable = (value: unknown): value is Plain =>
  typeof value === "object" && value !== null && !Array.isArray(value);
const same = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b);

/** The path of keys, whatever letters they hold (RFC 6901). */
export const pathOf = (...keys: string[]): string =>
  keys.map((k) => k.replaceAll("~", "~0").replaceAll("/", "~1")).join("/");

/** What leads from fields as they were shown to fields as they are wished: values at leaf paths. Fields that are not named stay. */
export function leafChanges<T extends object>(shown: T, wished: Partial<T>): Change[] {
  return Object.entries(wished).flatMap(([key, value]) => between([key], (shown as Plain)[key], value));
}

function between(keys: string[], before: unknown, after: unknown): Change[] {
  if (same(before, after)) return [];
  if (!isTable(before) || !isTable(after)) return [{ path: pathOf(...keys), value: after }];
  const gone = Object.keys(before)
    .filter((k) => !(k in after))
    .map((k): Change => ({ path: pathOf(...keys, k), remove: true }));
  return [...gone, ...Object.entries(after).flatMap(([k, value]) => between([...keys, k], before[k], value))];
}

/** An id that nobody else gives at the same time, beginning with a word for people. */
export const freshId = (word: string): string => `${word}-${crypto.randomUUID().slice(0, 8)}`;
