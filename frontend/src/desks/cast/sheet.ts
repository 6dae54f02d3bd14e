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

/** Switches one held contact of the take on or off. The sheet, which other takes share, keeps those of earlier releases only. */
export function holdOrLetGo(span: Held) {
  const cast = sessionState().opened?.cast;
  if (!cast) return;
  if (span.on) return void edit("take", `let go: ${span.key}`, [{ path: pathOf("letGo", span.key), value: true }]);
  const inSheet = span.key in cast.body.contacts.off;
  const path = inSheet ? pathOf("contacts", "off", span.key) : pathOf("letGo", span.key);
  void edit(inSheet ? "cast" : "take", `hold: ${span.key}`, [{ path, remove: true }]);
}

/** The response of a channel at a weight. Pure. */
export const response = (weight: number, bend: number): number => Math.sign(weight) * Math.abs(weight) ** (2 ** -bend);
