// Tables of a take as the page holds them: pieces of the server put together, and what is drawn of them. Pure.
import type { Bundle, Table } from "../api/bundle";
import type { Piece } from "../api/client";

export type Curves = {
  frames: number;
  rate: number;
  rateText: string;
  timecode: string;
  timecodeRate: string;
  channels: string[];
  raw: Table;
  tidied: Table;
};
export type Body = {
  targets: string[];
  still: [string, string][];
  weights: Table;
  joints: string[];
  motion: Table;
  rootJoint: string;
  root: Table | null;
  /** Joints that slide from their rest: (frames, joints, 3). */
  shifted: string[];
  shifts: Table | null;
  /** Contacts that the sheet keeps, and where the mesh goes through itself. */
  kept: Held[];
  crossings: Crossing[];
};
export type Held = {
  kind: string;
  key: string;
  first: number;
  last: number;
  before: number;
  after: number;
  on: boolean;
};
export type Crossing = { kind: string; words: string; first: number; last: number; peak: number; depth: number };

/** One part as it is held: the tag under which the server knows it, names of its columns, and its numbers. */
export type Part = { tag: string; columns: string[]; table: Table };
export type Parts = Partial<Record<Piece["part"], Part>>;
/** What is drawn: curves and body, from the same parts; joints: curves of those that are watched; rig: channels of the character's
 * rig that are asked for; props: where the props of a shot go. */
export type Shown = {
  curves: Curves | null;
  body: Body | null;
  rig: Curves | null;
  joints: JointCurves | null;
  props: PropWays | null;
};
export const NOTHING_SHOWN: Shown = { curves: null, body: null, rig: null, joints: null, props: null };
/** Props by column: metres and rotation, seven numbers a frame. short: by hold, metres that its hand stays away from it, null where
 * there is no such hand. */
export type PropWays = { columns: string[]; table: Table; short: Record<string, number | null> };
/** Curves of joints: "joint hips turn x" in degrees, "joint hips at y" in metres. */
export type JointCurves = { columns: string[]; table: Table };

type Said = {
  part: Piece["part"];
  tag: string;
  columns: string[];
  size: number;
  first: number;
  count: number;
  of: string;
};

/** The parts with what came; null where a piece builds on a table that is not held (it is then asked for whole). */
export function received(held: Parts, { head, arrays }: Bundle): Parts | null {
  const next: Parts = { ...held };
  for (const said of head.pieces as Said[]) {
    const came = arrays[said.part]!;
    if (!said.of) {
      next[said.part] = { tag: said.tag, columns: said.columns, table: { data: came.data, shape: shapeOf(said) } };
      continue;
    }
    const base = held[said.part];
    if (base?.tag !== said.of) return null;
    next[said.part] = {
      tag: said.tag,
      columns: said.columns,
      table: patched(base.table, arrays[`${said.part} runs`]!, came, said.size),
    };
  }
  return next;
}

const shapeOf = ({ count, columns, size }: Said) =>
  size === 1 ? [count, columns.length] : [count, columns.length, size];

/** A table with runs of frames replaced; without any it is the same object, so that nothing that shows it is drawn again. */
export function patched(base: Table, runs: Table, values: Table, size: number): Table {
  if (!runs.shape[0]) return base;
  const data = base.data.slice();
  const width = (base.shape[1] ?? 1) * size;
  let at = 0;
  for (let run = 0; run < runs.shape[0]; run++) {
    const [column, first, count] = [runs.data[run * 3]!, runs.data[run * 3 + 1]!, runs.data[run * 3 + 2]!];
    for (let frame = first; frame < first + count; frame++, at += size)
      data.set(values.data.subarray(at, at + size), frame * width + column * size);
  }
  return { data, shape: base.shape };
}

/** What is drawn of parts; what did not change stays the same object as before. */
export function shownOf(parts: Parts, head: Record<string, unknown>, before: Shown): Shown {
  const { raw, tidied, weights, motion, root, shifts } = parts;
  const curves = raw && tidied ? curvesOf(raw, tidied, head, before.curves) : null;
  const rig = parts.rigRaw && parts.rig ? curvesOf(parts.rigRaw, parts.rig, head, before.rig) : null;
  const joints = parts.joints?.columns.length ? jointsOf(parts.joints, before.joints) : null;
  const props = parts.props?.columns.length ? waysOfProps(parts.props, head, before.props) : null;
  if (!weights || !motion) return { curves, body: null, rig, joints, props };
  const given = "kept" in head;
  const was = before.body;
  const body: Body = {
    targets: weights.columns,
    weights: weights.table,
    still: given ? (head.still as [string, string][]) : (was?.still ?? []),
    kept: given ? (head.kept as Held[]) : (was?.kept ?? []),
    crossings: given ? (head.crossings as Crossing[]) : (was?.crossings ?? []),
    joints: motion.columns,
    motion: motion.table,
    rootJoint: root ? root.columns[0]! : "",
    root: root?.columns[0] ? flat(root.table) : null,
    shifted: shifts?.columns ?? [],
    shifts: shifts?.columns.length ? shifts.table : null,
  };
  return { curves, body, rig, joints, props };
}

function waysOfProps({ columns, table }: Part, head: Record<string, unknown>, before: PropWays | null): PropWays {
  const short = (head.short as PropWays["short"] | undefined) ?? before?.short ?? {};
  return { columns, table, short };
}

const jointsOf = ({ columns, table }: Part, before: JointCurves | null): JointCurves =>
  before?.table === table ? before : { columns, table };

function curvesOf(raw: Part, tidied: Part, head: Record<string, unknown>, before: Curves | null): Curves {
  if (before && before.raw === raw.table && before.tidied === tidied.table) return before;
  const rateText = String(head.rate);
  const [over, under] = rateText.split("/").map(Number);
  return {
    frames: raw.table.shape[0]!,
    rate: under ? over! / under : over!,
    rateText,
    timecode: String(head.timecode),
    timecodeRate: String(head.timecodeRate),
    channels: raw.columns,
    raw: raw.table,
    tidied: tidied.table,
  };
}

const flat = ({ data, shape }: Table): Table => ({ data, shape: [shape[0]!, 3] });
