// The cast sheet as the page edits it: only what differs from the automatic match and from 1:1 stands in it.
import { leafChanges, pathOf } from "../../api/changes";
import type { CastBody, Change } from "../../api/client";
import { edit, preview, sessionState, useOpen, type Held } from "../../workspace/workspace";

export type Parts = Record<string, number>;
export type Sheet = CastBody;
type Table = "regionStrength" | "wayStrength" | "shapeStrength" | "below" | "shapeOffset" | "bend" | "directions";

/** The sheet of the open take; there is one where there is a character. */
export const useSheet = (): Sheet => useOpen("opened").opened!.cast!.body;

/** The change that sets one number of a table, or takes it out where it says nothing. Pure. */
export const numberChange = (table: Table, name: string, value: number, rest: number): Change =>
  value === rest ? { path: pathOf(table, name), remove: true } : { path: pathOf(table, name), value };

/** Changes of the sheet from as it was shown to as it is wished. */
export const put = (sheet: Sheet, label: string, wished: Partial<Sheet>) =>
  edit("cast", label, leafChanges(sheet, wished));
export const putNumber = (label: string, table: Table, name: string, value: number, rest: number) =>
  edit("cast", label, [numberChange(table, name, value, rest)]);
export const dragNumber = (table: Table, name: string, value: number) =>
  void preview({ cast: [{ path: pathOf(table, name), value }] });

/** Switches one held contact on or off. */
export function holdOrLetGo(span: Held) {
  if (!sessionState().opened?.cast) return;
  const path = pathOf("contacts", "off", span.key);
  void edit("cast", span.on ? `let go: ${span.key}` : `hold: ${span.key}`, [
    span.on ? { path, value: true } : { path, remove: true },
  ]);
}

/** The response of a channel at a weight. Pure. */
export const response = (weight: number, bend: number): number => Math.sign(weight) * Math.abs(weight) ** (2 ** -bend);
