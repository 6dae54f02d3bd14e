// Curves and character from the server's bundles. Pure.
import type { Bundle, Table } from "../api/bundle";

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
export type Held = { kind: string; key: string; first: number; last: number; before: number; after: number; on: boolean };
export type Crossing = { kind: string; words: string; first: number; last: number; peak: number; depth: number };
/** What is shown now, with what a bundle brings in its place. */
export function assembled(before: { curves: Curves | null; body: Body | null }, { head, arrays }: Bundle): { curves: Curves; body: Body | null } {
  const rateText = String(head.rate);
  const [over, under] = rateText.split("/").map(Number);
  // Without new curves the old ones stay the same object, so that nothing that shows them is drawn again.
  const curves: Curves = before.curves && !arrays.raw && !arrays.tidied ? before.curves : {
    frames: Number(head.frames),
    rate: under ? over! / under : over!,
    rateText,
    timecode: String(head.timecode),
    timecodeRate: String(head.timecodeRate),
    channels: head.channels as string[],
    raw: arrays.raw ?? before.curves!.raw,
    tidied: arrays.tidied ?? before.curves!.tidied,
  };
  return { curves, body: withArrays(before.body, head, arrays) };
}

function withArrays(before: Body | null, head: Record<string, unknown>, arrays: Record<string, Table>): Body | null {
  if (!arrays.weights && !arrays.motion) return before;
  const weights = arrays.weights
    ? {
        targets: head.targets as string[], still: head.still as [string, string][], weights: arrays.weights, kept: (head.kept ?? []) as Held[],
        crossings: (head.crossings ?? []) as Crossing[], shifted: (head.shifted ?? []) as string[], shifts: arrays.shifts ?? null,
      }
    : { targets: before!.targets, still: before!.still, weights: before!.weights, kept: before!.kept, crossings: before!.crossings, shifted: before!.shifted, shifts: before!.shifts };
  if (arrays.motion && arrays.root) {
    return { ...weights, joints: head.joints as string[], motion: arrays.motion, rootJoint: head.rootJoint as string, root: arrays.root };
  }
  if (arrays.motion && before) return { ...before, ...weights, motion: patched(before, head.joints as string[], arrays.motion) };
  return before ? { ...before, ...weights } : null;
}

/** The motion with some of its joints replaced. */
function patched(before: Body, joints: string[], motion: Table): Table {
  const frames = motion.shape[0]!;
  if (before.motion.shape[0] !== frames) return before.motion;
  const data = before.motion.data.slice();
  const all = before.joints.length;
  joints.forEach((joint, from) => {
    const to = before.joints.indexOf(joint);
    if (to < 0) return;
    for (let f = 0; f < frames; f++) {
      data.set(motion.data.subarray((f * joints.length + from) * 4, (f * joints.length + from) * 4 + 4), (f * all + to) * 4);
    }
  });
  return { data, shape: before.motion.shape };
}
