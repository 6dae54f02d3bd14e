// A performer's measures as they are typed: centimetres, nothing for what is not known. Pure.
import type { Schemas } from "../../api/client";

export type Measures = Schemas["MeasuresDocument"];
export const FIELDS = [
  { name: "height", label: "Height", hint: "To the top of the head" },
  { name: "span", label: "Arm span", hint: "From fingertip to fingertip, arms held out" },
  { name: "hips", label: "Hip height", hint: "To the joints of the thighs, legs straight" },
  { name: "foot", label: "Foot", hint: "From the heel to the tip of the toes" },
] as const;
export type Field = (typeof FIELDS)[number]["name"];

/** Metres as centimetres in words, "" for what is not known. */
export const shownAs = (metres: number | null | undefined): string =>
  metres == null ? "" : String(Math.round(metres * 1000) / 10);

/** What was typed as metres, null for nothing, undefined for what is no number. */
export function typedAs(text: string): number | null | undefined {
  const plain = text
    .trim()
    .replace(",", ".")
    .replace(/\s*cm$/, "");
  if (!plain) return null;
  const centimetres = Number(plain);
  return Number.isFinite(centimetres) ? Math.round(centimetres * 10) / 1000 : undefined;
}

/** The measures of a performer among those of a production. */
export const ofPerformer = (rows: Measures[], performer: string): Measures | null =>
  rows.find((row) => row.body.performer === performer) ?? null;
