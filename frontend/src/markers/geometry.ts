// Markers in numbers: carried to the head, mirrored, picked. Pure.
import type { Table } from "../api/bundle";

export type Turned = { rotation: number[]; shift: number[] };
/** Points (frames, markers, 3) with what they are called; gaps: (frames, markers) 1 where a sample was filled in. */
export type Cloud = {
  labels: string[];
  frames: number;
  points: Float32Array;
  gaps?: Float32Array;
  residual?: Float32Array;
};

export function cloudOf(labels: string[], points: Table, more: { gaps?: Table; residual?: Table } = {}): Cloud {
  return {
    labels,
    frames: points.shape[0]!,
    points: points.data,
    gaps: more.gaps?.data,
    residual: more.residual?.data,
  };
}

/** The cloud with p -> rotation p + shift. */
export function carried(cloud: Cloud, { rotation: r, shift: s }: Turned): Cloud {
  const points = new Float32Array(cloud.points.length);
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [cloud.points[i]!, cloud.points[i + 1]!, cloud.points[i + 2]!];
    for (let k = 0; k < 3; k++) points[i + k] = r[k * 3]! * x + r[k * 3 + 1]! * y + r[k * 3 + 2]! * z + s[k]!;
  }
  return { ...cloud, points };
}

/** About the middle of what the first frames show, with the axis that is up turned to y. */
export function centred(cloud: Cloud, up: "x" | "y" | "z"): Cloud {
  const rotation = { y: [1, 0, 0, 0, 1, 0, 0, 0, 1], z: [1, 0, 0, 0, 0, 1, 0, -1, 0], x: [0, -1, 0, 1, 0, 0, 0, 0, 1] }[
    up
  ];
  const turned = carried(cloud, { rotation, shift: [0, 0, 0] });
  const frame = meanOf(turned, 0, Math.min(turned.frames - 1, 30));
  const middle = [0, 1, 2].map((k) =>
    median(Array.from({ length: frame.length / 3 }, (_, m) => frame[m * 3 + k]!).filter((v) => v === v)),
  );
  return carried(turned, { rotation: [1, 0, 0, 0, 1, 0, 0, 0, 1], shift: middle.map((v) => -v) });
}

function median(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}

/** (markers * 3) mean of frames first..last, NaN for a marker that is not seen there. */
export function meanOf(cloud: Cloud, first: number, last: number): Float32Array {
  const count = cloud.labels.length;
  const out = new Float32Array(count * 3).fill(NaN);
  for (let m = 0; m < count; m++) {
    const sum = [0, 0, 0];
    let seen = 0;
    for (let f = first; f <= last && f < cloud.frames; f++) {
      const at = (f * count + m) * 3;
      if (cloud.points[at] !== cloud.points[at]) continue;
      for (let k = 0; k < 3; k++) sum[k]! += cloud.points[at + k]!;
      seen++;
    }
    if (seen) for (let k = 0; k < 3; k++) out[m * 3 + k] = sum[k]! / seen;
  }
  return out;
}

const NEAR = 0.014; // metres between a marker and where its mirrored partner should be

/** The marker that sits where another's mirrored partner should be, in neutral points of the head's own frame. */
export function partnerOf(labels: string[], neutral: Float32Array, label: string): string | null {
  const at = labels.indexOf(label);
  if (at < 0) return null;
  const [x, y, z] = [-neutral[at * 3]!, neutral[at * 3 + 1]!, neutral[at * 3 + 2]!];
  let [best, found] = [NEAR, null as string | null];
  labels.forEach((other, m) => {
    if (m === at) return;
    const away = Math.hypot(neutral[m * 3]! - x, neutral[m * 3 + 1]! - y, neutral[m * 3 + 2]! - z);
    if (away < best) [best, found] = [away, other];
  });
  return found;
}

/** Millimetres between two markers in a frame; NaN where one is not seen. */
export function distance(cloud: Cloud, frame: number, one: string, two: string): number {
  const count = cloud.labels.length;
  const held = Math.min(Math.max(frame, 0), cloud.frames - 1);
  const [a, b] = [one, two].map((l) => (held * count + cloud.labels.indexOf(l)) * 3) as [number, number];
  return 1000 * Math.hypot(...[0, 1, 2].map((k) => cloud.points[a + k]! - cloud.points[b + k]!));
}

/** The nearest of places (n * 2 pixels) within reach of a point, -1 for none. */
export function nearest(places: Float32Array, x: number, y: number, reach: number): number {
  let [best, found] = [reach, -1];
  for (let n = 0; n * 2 < places.length; n++) {
    const away = Math.hypot(places[n * 2]! - x, places[n * 2 + 1]! - y);
    if (away < best) [best, found] = [away, n];
  }
  return found;
}
