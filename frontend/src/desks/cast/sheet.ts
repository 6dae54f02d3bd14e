// The cast sheet as the page edits it: only what differs from the automatic match and from 1:1 stands in it.
import { edit, preview, useOpen, useWorkspace, type Held } from "../../workspace/workspace";
import type { Drive } from "../../api/client";

export type Parts = Record<string, number>;
export type Sheet = {
  matches?: Record<string, string | Parts>;
  combinations?: Record<string, { of: string[]; by: "product" | "least"; gain: number }>;
  joints?: Record<string, Pick<Drive, "moves" | "axis" | "most" | "bend"> | null>;
  regionStrength?: Parts;
  wayStrength?: Parts;
  shapeStrength?: Parts;
  below?: Parts;
  shapeOffset?: Parts;
  shapeLimit?: Record<string, [number, number]>;
  bend?: Parts;
  directions?: Parts;
  contacts?: { lips?: boolean; lids?: boolean; parting?: boolean; off?: string[] };
  low?: number;
  high?: number;
  eyes?: "joints" | "shapes";
};
type Table = "regionStrength" | "wayStrength" | "shapeStrength" | "below" | "shapeOffset" | "bend" | "directions";

export const useSheet = (): Sheet => (useOpen("opened").opened!.cast?.body ?? {}) as Sheet;

/** A table with one number set, or taken out where it says nothing. Pure. */
export function withNumber(table: Parts | undefined, name: string, value: number, rest: number): Parts {
  const others = Object.fromEntries(Object.entries(table ?? {}).filter(([k]) => k !== name));
  return value === rest ? others : { ...others, [name]: value };
}

export const put = (label: string, path: keyof Sheet, value: unknown) => edit("cast", label, [{ path, value }]);
export const putNumber = (sheet: Sheet, label: string, table: Table, name: string, value: number, rest: number) => put(label, table, withNumber(sheet[table], name, value, rest));
export const dragNumber = (sheet: Sheet, table: Table, name: string, value: number) => void preview(["weights", "head"], { cast: { [table]: { ...sheet[table], [name]: value } } });

/** Switches one held contact on or off. */
export function holdOrLetGo(span: Held) {
  const contacts = (useWorkspace.getState().opened?.cast?.body as Sheet | undefined)?.contacts;
  const off = contacts?.off ?? [];
  void put(span.on ? `let go: ${span.key}` : `hold: ${span.key}`, "contacts", { ...contacts, off: span.on ? [...off, span.key] : off.filter((o) => o !== span.key) });
}

/** The response of a channel at a weight. Pure. */
export const response = (weight: number, bend: number): number => Math.sign(weight) * Math.abs(weight) ** 2 ** -bend;
