// Weights over time: their value at a frame, and the changes that set them. Pure.
import { freshId } from "../api/changes";
import type { Change, Schemas } from "../api/client";

export type Weight = Schemas["PlainWeight"];
type Row = Weight["keys"][string];

/** A weight by frame, straight between its keys: those that this page sets are linear ones. */
export function weightOverTime(weight: Weight): (frame: number) => number {
  const rows = Object.values(weight.keys).sort((a, b) => a[0] - b[0]);
  return (frame) => {
    if (!rows.length) return weight.value;
    const after = rows.findIndex((r) => r[0] > frame);
    if (after === 0) return rows[0]![1];
    if (after < 0) return rows[rows.length - 1]![1];
    const [a, b] = [rows[after - 1]!, rows[after]!];
    if (a[4] === "stepped") return a[1];
    return a[1] + ((b[1] - a[1]) * (frame - a[0])) / (b[0] - a[0]);
  };
}

export const weightAt = (weight: Weight, frame: number): number => weightOverTime(weight)(frame);

/** Changes that give a weight a value: at a frame where it holds keys, else everywhere. */
export function weightSet(path: string, weight: Weight, frame: number, value: number): Change[] {
  if (!Object.keys(weight.keys).length) return [{ path: `${path}/value`, value }];
  return [keySet(`${path}/keys`, weight.keys, frame, value)];
}

/** The change that sets a key at a frame in a table of keys. */
export function keySet(path: string, keys: Record<string, Row>, frame: number, value: number): Change {
  const there = Object.keys(keys).find((id) => Math.abs(keys[id]![0] - frame) < 0.5);
  return { path: `${path}/${there ?? freshId("k")}`, value: [frame, value, 0, 0, "linear"] };
}
