// The time axis: which frames lie where. Pure.
export type TimeAxis = { from: number; to: number; width: number };

export const frameToX = (axis: TimeAxis, frame: number): number =>
  ((frame - axis.from) / (axis.to - axis.from)) * axis.width;
export const xToFrame = (axis: TimeAxis, x: number): number => axis.from + (x / axis.width) * (axis.to - axis.from);

/** Closer or farther about a frame that stays where it is; never less than 4 frames, never far beyond the take. */
export function zoomed(axis: TimeAxis, about: number, factor: number, frames: number): TimeAxis {
  const span = Math.min(Math.max((axis.to - axis.from) * factor, 4), Math.max(frames * 1.2, 8));
  const part = (about - axis.from) / (axis.to - axis.from);
  return held({ ...axis, from: about - part * span, to: about + (1 - part) * span }, frames);
}

export function panned(axis: TimeAxis, byFrames: number, frames: number): TimeAxis {
  return held({ ...axis, from: axis.from + byFrames, to: axis.to + byFrames }, frames);
}

/** Keeps at least some of the take in sight. */
function held(axis: TimeAxis, frames: number): TimeAxis {
  const span = axis.to - axis.from;
  const margin = span * 0.1;
  const from = Math.min(Math.max(axis.from, -margin), Math.max(frames - span + margin, -margin));
  return { ...axis, from, to: from + span };
}

export const fitted = (width: number, frames: number): TimeAxis => ({
  from: -0.5,
  to: Math.max(frames, 4) - 0.5,
  width,
});

export type Unit = "frames" | "seconds" | "timecode";

/** Steps between marks that leave at least `room` pixels, in frames. */
export function markStep(axis: TimeAxis, rate: number, unit: Unit, room = 78): number {
  const least = (room / axis.width) * (axis.to - axis.from);
  const steps =
    unit === "frames"
      ? [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000, 50000]
      : [
          1,
          2,
          5,
          10,
          rate / 4,
          rate / 2,
          rate,
          2 * rate,
          5 * rate,
          10 * rate,
          30 * rate,
          60 * rate,
          120 * rate,
          300 * rate,
          600 * rate,
        ];
  return steps.find((s) => s >= least) ?? steps[steps.length - 1]!;
}

const two = (n: number) => String(n).padStart(2, "0");

export type TimecodeStart = { frames: number; base: number; exact: number } | null;

/** The start of a take as frames since midnight, from its label; drop-frame labels (";") are counted as such. */
export function timecodeStart(label: string, rate: string): TimecodeStart {
  const match = /^(\d\d):(\d\d):(\d\d)([:;])(\d+)$/.exec(label);
  if (!match) return null;
  const [over, under] = rate.split("/").map(Number);
  const exact = under ? over! / under : over!;
  const base = Math.round(exact);
  const [hours, minutes, seconds, frame] = [match[1], match[2], match[3], match[5]].map(Number) as [
    number,
    number,
    number,
    number,
  ];
  return { frames: ((hours * 60 + minutes) * 60 + seconds) * base + frame, base, exact };
}

/** A frame of the take in words. Timecode counts whole frames of its own rate. */
export function frameLabel(frame: number, rate: number, unit: Unit, start: TimecodeStart): string {
  if (unit === "frames" || (unit === "timecode" && !start)) return String(Math.round(frame));
  if (unit === "seconds") return `${(frame / rate).toFixed(rate > 30 ? 3 : 2)}`;
  const total = start!.frames + Math.floor((frame / rate) * start!.exact + 1e-6);
  const seconds = Math.floor(total / start!.base);
  return `${two(Math.floor(seconds / 3600) % 24)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}:${two(total % start!.base)}`;
}
