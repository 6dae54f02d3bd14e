// What the deck shows of the workspace: curves with their pyramids, and marks of the device's faults.
import { colourOf, fullScale, sideOf } from "../shared/regions";
import type { Curves } from "../workspace/workspace";
import type { Snag } from "../api/client";
import type { Hand } from "../keys/keys";
import { extent, pyramid, type Pyramid } from "../timekit/decimate";
import type { Curve } from "../timekit/tracks/curves";
import type { Flag, Mark } from "../timekit/tracks/flags";
import type { KeyedCurve } from "../timekit/tracks/keys";
import type { RowMark, RowSpan } from "../timekit/tracks/spans";
import { rangeOf } from "../timekit/valueAxis";
import type { Body } from "../workspace/workspace";

type Made = { of: Float32Array; pyramids: Map<number, Pyramid> };

/** Keeps the pyramids of the newest arrays, so that a pan or zoom computes none. */
export class Pyramids {
  private made: Record<string, Made> = {};

  get(slot: string, data: Float32Array, channels: number, column: number): Pyramid {
    let entry = this.made[slot];
    if (!entry || entry.of !== data) entry = this.made[slot] = { of: data, pyramids: new Map() };
    let found = entry.pyramids.get(column);
    if (!found) entry.pyramids.set(column, (found = pyramid(data, channels, column)));
    return found;
  }
}

export function deckCurves(
  curves: Curves,
  selected: string[],
  regionOf: Record<string, string>,
  light: boolean,
  kept: Pyramids,
  against?: Float32Array,
): Curve[] {
  const out: Curve[] = [];
  const count = curves.channels.length;
  // Angles and weights share the lane: beside weights, angles are drawn at a thirtieth.
  const weights = selected.some((n) => fullScale(n) === 1);
  for (const name of selected) {
    const column = curves.channels.indexOf(name);
    if (column < 0) continue;
    const region = regionOf[name] ?? "lips";
    out.push({
      name,
      region,
      colour: colourOf(region, light),
      dashed: sideOf(name) === "right",
      scale: weights ? fullScale(name) : 1,
      tidied: kept.get("tidied", curves.tidied.data, count, column),
      raw: against ? kept.get("against", against, count, column) : kept.get("raw", curves.raw.data, count, column),
    });
  }
  return out;
}

/** Lowest and highest value that the lane of these curves shows. */
export function rangeOfCurves(shown: Curve[]): { low: number; high: number } {
  const spans = shown.map((c) => extent(c.tidied));
  const weights = !shown.length || shown.some((c) => c.scale === 1 && !/^(head|gaze)/.test(c.name));
  const scaled = (side: "low" | "high") => spans.map((s, i) => s[side] / shown[i]!.scale);
  return rangeOf(scaled("low"), scaled("high"), weights);
}

type Fault = { row: number; kind: string; step: number };

export type FrameFault = { from: number; to: number; kind: "gap" | "dropped" | "doubled" | "uneven" };

/** Faults at frames: gaps from the curves themselves, the others from the report on the device's time stamps. */
export function frameFaults(curves: Curves, faults: Fault[]): FrameFault[] {
  const marks: FrameFault[] = [];
  const channels = curves.channels.length;
  const { data } = curves.raw;
  let from = -1;
  for (let frame = 0; frame <= curves.frames; frame++) {
    const gap = frame < curves.frames && data[frame * channels] !== data[frame * channels];
    if (gap && from < 0) from = frame;
    if (!gap && from >= 0) {
      marks.push({ from, to: frame, kind: "gap" });
      from = -1;
    }
  }
  // The report counts rows; walking along the steps gives the frame of each.
  let shift = 0;
  for (const { row, kind, step } of faults) {
    const frame = row - 1 + shift;
    if (kind === "dropped") {
      marks.push({ from: frame, to: frame + Math.max(1, Math.round(step) - 1), kind });
      shift += Math.max(1, Math.round(step) - 1);
    } else if (kind === "doubled") {
      marks.push({ from: frame, to: frame + 1, kind });
      shift -= 1;
    } else if (kind === "uneven") {
      marks.push({ from: frame, to: frame + 1, kind });
    }
  }
  return marks;
}

/** Shown curves that hold keys. */
export function keyedCurves(shown: Curve[], hand: Hand): KeyedCurve[] {
  return shown.flatMap((curve) => {
    const held = hand[curve.name];
    return held ? [{ curve, mode: held.mode, rows: held.keys }] : [];
  });
}

/** Snags for the strip, long ones first. */
export function snagFlags(snags: Snag[], chosen: string | null, frames: number, light: boolean): Flag[] {
  return snags
    .map((s) => ({
      key: s.key,
      from: s.first,
      to: s.last,
      severity: s.severity,
      colour: colourOf(s.region, light),
      chosen: s.key === chosen,
      whole: s.last - s.first > 0.8 * frames,
    }))
    .sort((a, b) => b.to - b.from - (a.to - a.from));
}

const HEIGHT = { gap: 1, dropped: 0.8, doubled: 0.5, uneven: 0.3 } as const;
const TONE = { gap: "accent", dropped: "text", doubled: "text", uneven: "faint" } as const;

/** Faults as marks in the strip of flags. */
export const faultMarks = (faults: FrameFault[]): Mark[] =>
  faults.map(({ from, to, kind }) => ({ from, to, height: HEIGHT[kind], tone: TONE[kind] }));

/** The next or previous frame at which the device's frames were wrong. */
export function nextFault(faults: FrameFault[], frame: number, backward: boolean): number | undefined {
  const starts = faults
    .filter((f) => f.kind !== "uneven")
    .map((f) => f.from)
    .sort((a, b) => a - b);
  return backward ? starts.filter((f) => f < frame).pop() : starts.find((f) => f > frame);
}

/** Lids lie below lips, so that both can be pressed. */
const rowOf = (kind: string) => (kind.startsWith("lid") ? 1 : 0);

/** Contacts that the cast sheet keeps as spans, and where the mesh goes through itself as marks under them. */
export const contactSpans = ({
  kept,
  crossings,
}: Pick<Body, "kept" | "crossings">): { spans: RowSpan[]; marks: RowMark[] } => ({
  spans: kept.map((k) => ({ key: k.key, row: rowOf(k.kind), first: k.first, last: k.last, on: k.on })),
  marks: crossings.map((c) => ({ row: rowOf(c.kind), first: c.first, last: c.last })),
});
