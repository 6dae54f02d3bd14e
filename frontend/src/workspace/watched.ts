// Joints of the character that are looked at: how they turn and how high they are in the deck, and where they went in the viewer.
import { create } from "zustand";

export const LOOKS = ["turn", "height", "trail"] as const;
export type Look = (typeof LOOKS)[number];
/** Joint -> what of it is looked at; a joint without anything is not there. */
export type Watched = Record<string, Look[]>;
export const MOST_WATCHED = 12;

export const useWatched = create<{ joints: Watched }>(() => ({ joints: {} }));
export const watchedJoints = (): string[] => Object.keys(useWatched.getState().joints);

/** The joints with one look turned on or off; at most `MOST_WATCHED`, the oldest are let go. Pure. */
export function toggled(joints: Watched, joint: string, look: Look): Watched {
  const was = joints[joint] ?? [];
  const now = was.includes(look) ? was.filter((l) => l !== look) : [...was, look];
  const rest = Object.entries(joints).filter(([name]) => name !== joint);
  const kept = now.length ? [...rest, [joint, now] as const] : rest;
  return Object.fromEntries(kept.slice(-MOST_WATCHED));
}

type Shows = { refresh: () => Promise<void> };

/** Turns a look on or off; what is open brings the curves of these joints along. */
export function toggleWatched(joint: string, look: Look, session: Shows | null) {
  const before = watchedJoints();
  useWatched.setState(({ joints }) => ({ joints: toggled(joints, joint, look) }));
  const after = watchedJoints();
  if (before.join() !== after.join()) void session?.refresh();
}

/** The columns of the curves in which a joint has its place: left, up, ahead; null where they are not there. */
export function placeColumns(columns: string[], joint: string): number[] | null {
  const found = ["x", "y", "z"].map((axis) => columns.indexOf(`joint ${joint} at ${axis}`));
  return found.includes(-1) ? null : found;
}
