// A line-up in the page: its rows in groups, what a nudge changes, and what is said of a recording. Pure.
import { pathOf } from "../../api/changes";
import type { Change, Schemas } from "../../api/client";
import { secondsOf, sum } from "../../shared/seconds";
import type { TimeAxis } from "../../timekit/timeAxis";

export type Recording = Schemas["RecordingRow"];
export type LineUp = Schemas["OpenedLineUp"];

export const PART_LETTERS: Record<Recording["part"], string> = { face: "F", body: "B", sound: "S" };
const HOW_WORDS: Record<string, string> = {
  first: "the others were compared with it",
  take: "as its take has it",
  timecode: "by timecode",
  notes: "by a notes sheet",
  sound: "by what both heard",
  motion: "by the head's motion",
  curves: "by lids and jaw",
  clap: "by a clap",
  lips: "by lips to sound",
  hand: "set by hand",
};
/** Ways of comparing recordings that a person may choose. */
export const WAYS: { value: Schemas["Compared"]["by"]; label: string }[] = [
  { value: "auto", label: "the surest way" },
  { value: "sound", label: "sound to sound" },
  { value: "motion", label: "head motion" },
  { value: "curves", label: "lids and jaw" },
  { value: "clap", label: "a clap" },
  { value: "lips", label: "lips to sound" },
];

export const SURE = 0.5;
export const isUnsure = (row: Recording): boolean => row.start !== null && row.confidence < SURE && row.how !== "first";

/** The keys that move when some are moved: themselves or all of their takes, and what is kept together with any of these. */
export function moving(rows: Recording[], chosen: string[], whole: boolean): string[] {
  const takes = new Set(whole ? rows.filter((r) => chosen.includes(r.key)).map((r) => r.take) : []);
  const own = rows.filter((r) => chosen.includes(r.key) || (takes.has(r.take) && r.start !== null));
  const groups = new Set(own.map((r) => r.group).filter(Boolean));
  const moved = rows.filter((r) => own.includes(r) || (groups.has(r.group) && r.start !== null));
  // One that has no place yet gets one where it is dragged, but not by going along.
  return moved.filter((r) => r.start !== null || (!whole && chosen.includes(r.key))).map((r) => r.key);
}

/** Changes that keep recordings together from now on, under the id of a group, or let them apart ("" as the id). */
export const grouped = (keys: string[], group: string): Change[] =>
  keys.map((key) => ({ path: pathOf("sources", key, "group"), value: group }));

/** Whether all of them are kept together already. */
export const isGroup = (rows: Recording[]): boolean =>
  rows.length > 1 && !!rows[0]!.group && rows.every((r) => r.group === rows[0]!.group);

/** Frames of the count, parts of one to a thousandth, as changes of those that are placed; one that is not is placed that far in. */
export function nudged(lineup: LineUp["lineup"], keys: string[], frames: number): Change[] {
  const by = secondsOf(frames, lineup.body.rate);
  return keys.flatMap((key) => {
    const entry = lineup.body.sources[key];
    if (!entry) return [];
    const value = {
      ...entry,
      start: sum(entry.start ?? "0", by),
      how: "hand",
      confidence: 1,
      against: null,
      picture: null,
    };
    return [{ path: pathOf("sources", key), value }];
  });
}

/** Seconds from the first beginning to the last end of what is placed; what is not placed counts from 0. */
export function extent(rows: Recording[]): { from: number; to: number } {
  const from = Math.min(0, ...rows.map((r) => r.start ?? 0));
  const to = Math.max(1, ...rows.map((r) => (r.start ?? 0) + r.seconds));
  return { from, to };
}

/** Where a recording begins, in words: its count with what is left of a frame, else seconds. */
export function beginning(row: Recording): string {
  if (row.start === null) return "not placed, for nothing says where it begins";
  return row.at ? row.at + remainder(row.atRemainder) : `${row.start.toFixed(4)} s`;
}

/** The picture of how a recording lay against the one that it was compared with, as it is drawn; null where there is none. */
export function fitPicture(row: Recording, rows: Recording[]) {
  const other = rows.find((r) => r.key === row.against);
  if (!row.picture || row.start === null || other?.start === undefined || other.start === null) return null;
  const { first, step, offset, scores } = row.picture;
  const found = { offset, lags: scores.map((_, i) => first + i * step), scores };
  return { found, now: row.start - other.start, other };
}

/** A part of a frame, "" for none. */
export const remainder = (part: number): string => (part > 0.0005 ? ` + ${part.toFixed(2)} frame` : "");

/** How a start was found, in words. */
export function how(row: Recording): string {
  if (row.start === null) return "";
  const words = HOW_WORDS[row.how] ?? row.how;
  const said = row.against
    ? `${words}, ${isUnsure(row) ? "unsure" : "sure"} (${Math.round(row.confidence * 100)}%)`
    : words;
  return Math.abs(row.drift) >= 1 ? `${said}, runs ${row.drift.toFixed(0)} ppm slow` : said;
}

/** The axis, in frames of the count, on which all lies between two frames with a little room. */
export function fitting(from: number, to: number, width: number): TimeAxis {
  const room = (to - from) * 0.03;
  return { from: from - room, to: to + room, width };
}

/** Closer or farther about a frame that stays where it is: from eight frames to two days at sixty. */
export function about(axis: TimeAxis, frame: number, factor: number): TimeAxis {
  const span = Math.min(Math.max((axis.to - axis.from) * factor, 8), 1e7);
  const part = (frame - axis.from) / (axis.to - axis.from);
  return { ...axis, from: frame - part * span, to: frame + (1 - part) * span };
}

export const shifted = (axis: TimeAxis, frames: number): TimeAxis => ({
  ...axis,
  from: axis.from + frames,
  to: axis.to + frames,
});
