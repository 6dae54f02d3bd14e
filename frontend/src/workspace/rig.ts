// What of a character's rig touch-up layers act on: its targets and joints, which of them are shown. Pure.
import type { LayerDoc, Schemas } from "../api/client";

export type RigRow = Schemas["RigRow"];
/** The rig of a role's character; shown: channels of it whose curves the deck has. */
export type Rig = Schemas["RigOut"] & { role: string; shown: string[] };
export const MOST_SHOWN = 40; // channels at once

/** Whether a layer acts on the rig of a character, after the cast sheet. */
export const isTouchup = (layer: LayerDoc | null | undefined): boolean => !!layer?.body.character;

export const channelsOf = (rig: Rig | null): string[] => rig?.rows.flatMap((r) => r.channels) ?? [];

/** Channel -> region, of all channels of a rig. */
export const regionsOf = (rig: Rig | null): Record<string, string> =>
  Object.fromEntries(rig?.rows.flatMap((r) => r.channels.map((c) => [c, r.region])) ?? []);

/** Channels that a span is about. */
export const spanChannels = (span: LayerDoc["body"]["spans"][string]): string[] => [
  ...new Set([...Object.keys(span.offset), ...Object.keys(span.curves)]),
];

const spokenOf = (body: LayerDoc["body"]): Set<string> =>
  new Set([...Object.keys(body.keys), ...Object.values(body.spans).flatMap(spanChannels)]);

/** Channels that a layer speaks of, those that the rig has. */
export function namedIn(body: LayerDoc["body"], rig: Rig): string[] {
  const named = spokenOf(body);
  return channelsOf(rig).filter((c) => named.has(c));
}

/** Channels that a layer speaks of and the rig does not have: a newer version of it may lack them. */
export function missingIn(body: LayerDoc["body"], rig: Rig): string[] {
  const there = new Set(channelsOf(rig));
  return [...spokenOf(body)].filter((c) => !there.has(c));
}

/** What a channel of a rig is called where it is plain that it is one: "mouthSmileLeft", "head turn x". */
export const rigWords = (channel: string): string => channel.replace(/^(target|joint|limb) /, "");

/** Rows whose name has all the words, of the regions alone where some are named. */
export function rowsFound(rig: Rig, words: string, regions: string[]): RigRow[] {
  const parts = words.toLowerCase().split(/\s+/).filter(Boolean);
  return rig.rows.filter(
    (r) =>
      (!regions.length || regions.includes(r.region)) &&
      parts.every((p) => r.name.toLowerCase().includes(p) || r.part.includes(p)),
  );
}
