// Keys of the open take's or layer's channels as the deck shows and edits them. Pure, but for the store at the end.
import { create } from "zustand";
import type { LayerDoc, TakeBody } from "../api/client";
import type { Point } from "../timekit/track";
import type { Row } from "../timekit/tracks/keys";

type LayerBody = LayerDoc["body"];
/** Keys of a channel in order of frame, with the ids by which the server knows them. */
export type Held = { mode: "keys" | "offset" | "factor"; keys: Row[]; ids: string[] };
export type Hand = Record<string, Held>;
/** Chosen keys: channel -> frames. */
export type Chosen = Record<string, number[]>;

const NONE: Hand = {};
const sorted = new WeakMap<object, Hand>();

/** What was done by hand on a take's channels, keys in order of frame; the same object for the same take. */
export function handOf(body: { hand: TakeBody["hand"] } | undefined): Hand {
  if (!body) return NONE;
  let hand = sorted.get(body.hand);
  if (!hand) {
    hand = Object.fromEntries(
      Object.entries(body.hand).map(([channel, { mode, keys }]) => [channel, { mode, ...inOrder(keys) }]),
    );
    sorted.set(body.hand, hand);
  }
  return hand;
}

const MODES = { add: "offset", replace: "keys", scale: "factor" } as const;
const ofLayers = new WeakMap<object, Hand>();

/** The keys of a layer; the same object for the same layer. */
export function handOfLayer(body: Pick<LayerBody, "does" | "keys"> | undefined): Hand {
  if (!body) return NONE;
  let hand = ofLayers.get(body.keys);
  if (!hand) {
    const mode = MODES[body.does];
    const full = Object.entries(body.keys).filter(([, keys]) => Object.keys(keys).length);
    hand = Object.fromEntries(full.map(([channel, keys]) => [channel, { mode, ...inOrder(keys) }]));
    ofLayers.set(body.keys, hand);
  }
  return hand;
}

function inOrder(keys: Record<string, readonly unknown[]>): { ids: string[]; keys: Row[] } {
  const rows = keys as unknown as Record<string, Row>;
  const ids = Object.keys(rows).sort((a, b) => rows[a]![0] - rows[b]![0]);
  return { ids, keys: ids.map((id) => rows[id]!) };
}

/** Channel -> ids of the chosen keys, for the server. */
export function chosenIds(hand: Hand, chosen: Chosen): Record<string, string[]> {
  const out: Record<string, string[]> = {};
  for (const [channel, frames] of Object.entries(chosen)) {
    const held = hand[channel];
    const at = held?.ids.filter((_, i) => frames.includes(held.keys[i]![0])) ?? [];
    if (at.length) out[channel] = at;
  }
  return out;
}

/** Rows of the chosen keys. */
export const chosenRows = (hand: Hand, chosen: Chosen): Row[] => Object.values(copied(hand, chosen)).flat();

export const count = (chosen: Chosen): number => Object.values(chosen).reduce((n, f) => n + f.length, 0);

export function toggled(chosen: Chosen, channel: string, frame: number): Chosen {
  const had = chosen[channel] ?? [];
  return { ...chosen, [channel]: had.includes(frame) ? had.filter((f) => f !== frame) : [...had, frame] };
}

export function merged(a: Chosen, b: Chosen): Chosen {
  const out = { ...a };
  for (const [channel, frames] of Object.entries(b)) out[channel] = [...new Set([...(out[channel] ?? []), ...frames])];
  return out;
}

export const isChosen = (chosen: Chosen, channel: string, frame: number): boolean =>
  chosen[channel]?.includes(frame) ?? false;

/** Frames of the chosen keys after they were moved, as the server keeps them. */
export function moved(chosen: Chosen, by: number, snap = true): Chosen {
  const at = (f: number) => (snap ? Math.round(f + by) : Math.round((f + by) * 1000) / 1000);
  return Object.fromEntries(Object.entries(chosen).map(([channel, frames]) => [channel, frames.map(at)]));
}

/** All keys of channels, within frames where there is a range. */
export function allOf(hand: Hand, channels: string[], range: { from: number; to: number } | null): Chosen {
  return Object.fromEntries(
    channels
      .filter((c) => hand[c])
      .map((c) => [c, hand[c]!.keys.map((k) => k[0]).filter((f) => !range || (f >= range.from && f <= range.to))]),
  );
}

/** Whether a point lies inside a closed stroke (even-odd rule). */
export function inside(point: Point, stroke: Point[]): boolean {
  let within = false;
  for (let i = 0, j = stroke.length - 1; i < stroke.length; j = i++) {
    const a = stroke[i]!;
    const b = stroke[j]!;
    if (a.y > point.y !== b.y > point.y && point.x < ((b.x - a.x) * (point.y - a.y)) / (b.y - a.y) + a.x)
      within = !within;
  }
  return within;
}

/** Keys for pasting: those chosen, by channel. */
export function copied(hand: Hand, chosen: Chosen): Record<string, Row[]> {
  const out: Record<string, Row[]> = {};
  for (const [channel, frames] of Object.entries(chosen)) {
    const rows = hand[channel]?.keys.filter((k) => frames.includes(k[0])) ?? [];
    if (rows.length) out[channel] = rows;
  }
  return out;
}

/** The next or previous frame that holds a key on one of the channels. */
export function nextKey(hand: Hand, channels: string[], frame: number, backward: boolean): number | undefined {
  const frames = channels.flatMap((c) => hand[c]?.keys.map((k) => k[0]) ?? []);
  return backward
    ? Math.max(...frames.filter((f) => f < frame - 1e-6), -Infinity)
    : Math.min(...frames.filter((f) => f > frame + 1e-6), Infinity);
}

export const TOOLS = ["scrub", "keys", "lasso", "draw", "smooth", "pull"] as const;
export type DeckTool = (typeof TOOLS)[number];

type State = {
  tool: DeckTool;
  chosen: Chosen;
  size: number;
  refit: boolean;
  snap: boolean;
  offset: number;
  copied: Record<string, Row[]>;
  drag: { frames: number; value: number } | null;
};

/** The tool in the deck, the chosen keys, the brush's size in frames, how edits are made, what was copied, and a drag under way. */
export const useKeys = create<State>(() => ({
  tool: "scrub",
  chosen: {},
  size: 12,
  refit: true,
  snap: true,
  offset: 0,
  copied: {},
  drag: null,
}));
