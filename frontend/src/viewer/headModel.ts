// The capture head in numbers: shapes by weight, normals, the pose of a frame. Pure.
import type { Bundle } from "../api/bundle";
import type { Curves } from "../workspace/tables";

export type HeadModel = {
  fov: number;
  first: number;
  /** Vertices (n, 3), shapes (52, n, 3) one after the other, eye centres (2, 3), poses (frames, 7). */
  points: Float32Array;
  shapes: Float32Array;
  /** Added for how far the jaw is between shut and open: offsets (n, 3), and which shape that is. */
  arc: { shape: number; offsets: Float32Array } | null;
  eyes: Float32Array;
  poses: Float32Array;
  frames: number;
  /** Corners: their vertex, uv; triangles of corners with the part of each. */
  corners: Uint32Array;
  uv: Float32Array;
  triangles: Uint32Array;
  part: Uint8Array;
  paint: Float32Array;
  paintSize: number;
};

export function headModel({ head, arrays }: Bundle): HeadModel {
  const of = (name: string) => arrays[name]!;
  return {
    fov: Number(head.fov),
    first: Number(head.first),
    points: of("points").data,
    shapes: of("shapes").data,
    arc: arrays.arc ? { shape: Number(head.jaw), offsets: arrays.arc.data } : null,
    eyes: of("eyes").data,
    poses: of("poses").data,
    frames: of("poses").shape[0]!,
    corners: Uint32Array.from(of("corners").data),
    uv: of("uv").data,
    triangles: Uint32Array.from(of("triangles").data),
    part: Uint8Array.from(of("part").data),
    paint: of("paint").data,
    paintSize: of("paint").shape[1]!,
  };
}

/** Vertices with shapes at weights, into `out`; weights near nothing cost nothing. */
export function shaped(model: HeadModel, weights: ArrayLike<number>, out: Float32Array) {
  out.set(model.points);
  const count = model.points.length;
  for (let s = 0; s < weights.length; s++) {
    const weight = weights[s]!;
    if (!(Math.abs(weight) > 1e-4)) continue;
    const from = s * count;
    for (let i = 0; i < count; i++) out[i]! += weight * model.shapes[from + i]!;
  }
  const jaw = model.arc ? weights[model.arc.shape]! : 0;
  const above = jaw * (1 - jaw);
  if (model.arc && Math.abs(above) > 1e-4) for (let i = 0; i < count; i++) out[i]! += above * model.arc.offsets[i]!;
}

/** Weights of the shapes in a frame of curves, into `out`; 0 for a shape that they have not, and in a gap. */
export function weightsAt(
  curves: Pick<Curves, "channels" | "raw"> | null,
  shapes: string[],
  frame: number,
  out: Float32Array,
) {
  shapes.forEach((shape, i) => {
    const column = curves?.channels.indexOf(shape) ?? -1;
    const value = column < 0 ? 0 : curves!.raw.data[frame * curves!.channels.length + column]!;
    out[i] = Number.isFinite(value) ? value : 0;
  });
}

/** Area-weighted unit normals of the vertices, into `out`. */
export function normals(points: Float32Array, model: HeadModel, out: Float32Array) {
  out.fill(0);
  const { corners, triangles } = model;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [corners[triangles[t]!]! * 3, corners[triangles[t + 1]!]! * 3, corners[triangles[t + 2]!]! * 3];
    const [ux, uy, uz] = [points[b]! - points[a]!, points[b + 1]! - points[a + 1]!, points[b + 2]! - points[a + 2]!];
    const [vx, vy, vz] = [points[c]! - points[a]!, points[c + 1]! - points[a + 1]!, points[c + 2]! - points[a + 2]!];
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    for (const at of [a, b, c]) {
      out[at]! += nx;
      out[at + 1]! += ny;
      out[at + 2]! += nz;
    }
  }
  for (let i = 0; i < out.length; i += 3) {
    const length = Math.hypot(out[i]!, out[i + 1]!, out[i + 2]!) || 1;
    out[i]! /= length;
    out[i + 1]! /= length;
    out[i + 2]! /= length;
  }
}

/** Turn (x, y, z, w) and place of a frame; of the nearest frame with a face where none was seen. */
export function poseAt(model: HeadModel, frame: number): Float32Array {
  const held = Math.min(Math.max(frame, 0), model.frames - 1);
  for (let away = 0; away < model.frames; away++) {
    for (const f of [held - away, held + away]) {
      if (f >= 0 && f < model.frames && !Number.isNaN(model.poses[f * 7]!))
        return model.poses.subarray(f * 7, f * 7 + 7);
    }
  }
  return Float32Array.of(0, 0, 0, 1, 0, 0, -0.5);
}
