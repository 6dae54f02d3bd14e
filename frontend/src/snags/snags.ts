// The snags of a session's take: which there are, which one is looked at, and what is done about it.
import { create } from "zustand";
import { api, Problem, type Snag, type SnagList } from "../api/client";
import { notify } from "../shared/notices";
import { clock } from "../playback/clock";
import type { TakeSession } from "../workspace/session";
import { select } from "../workspace/workspace";
import { stopTrial, tryOut, useTrial } from "../workspace/trial";

type State = { take: string; list: SnagList | null; chosen: string | null };
type Open = TakeSession | null;
export const useSnags = create<State>(() => ({ take: "", list: null, chosen: null }));
const { getState: now, setState: set } = useSnags;

let newest = 0;

/** Looks the take through again; the newest answer wins. */
export async function lookThrough(take: string) {
  const mine = ++newest;
  if (now().take !== take) set({ take, list: null, chosen: null });
  try {
    const list = await api.snags(take);
    if (mine !== newest) return;
    set((s) => ({ list, chosen: list.snags.some((f) => f.key === s.chosen) ? s.chosen : null }));
  } catch (error) {
    if (mine === newest) notify(error instanceof Problem ? error : new Problem(0, String(error)));
  }
}

export function forgetSnags() {
  newest++;
  set({ take: "", list: null, chosen: null });
}

/** Goes to a snag and shows the channels that it is about. */
export function choose(session: Open, snag: Snag | null) {
  if (useTrial.getState().name) stopTrial();
  set({ chosen: snag?.key ?? null });
  if (!snag) return;
  clock.pause();
  clock.seekFrame(snag.first);
  const curves = session?.now.curves;
  const shown = snag.channels.filter((c) => curves?.channels.includes(c));
  if (shown.length) select(shown.slice(0, 8));
}

/** The next or previous snag in time from the one that is looked at, or from the playhead. */
export function step(list: Snag[], chosen: string | null, frame: number, backward: boolean): Snag | undefined {
  const ordered = [...list].sort((a, b) => a.first - b.first || a.key.localeCompare(b.key));
  const here = ordered.findIndex((s) => s.key === chosen);
  if (here >= 0) return ordered[here + (backward ? -1 : 1)];
  return backward ? ordered.filter((s) => s.first < frame).pop() : ordered.find((s) => s.first >= frame);
}

export function toNext(session: Open, backward: boolean): boolean {
  const list = now().list?.snags;
  if (!list?.length) return false;
  const next = step(list, now().chosen, clock.frame, backward);
  if (next) choose(session, next);
  return true;
}

export const hasMend = (snag: Snag) => snag.steps.length > 0 || snag.soundShift !== 0;

/** Plays the place before and after the mend. */
export function previewMend(session: Open, snag: Snag) {
  void tryOut(
    `mend of ${snag.kind}`,
    { mends: [snag.key] },
    { from: snag.first, to: Math.min(snag.last, snag.first + Math.round(4 * clock.fps)) },
    session,
  );
}

export function acceptMends(session: Open, snags: Snag[]) {
  stopTrial();
  const keys = snags.map((s) => s.key);
  return session?.change((take) => api.mend(take.id, take.version, keys));
}

export function dismiss(session: Open, snag: Snag, reason: string) {
  stopTrial();
  const value = { kind: snag.kind, reason, first: snag.first, last: snag.last };
  return session?.edit("take", `dismiss ${snag.kind}`, [{ path: `dismissed/${snag.key}`, value }]);
}

export function takeUpAgain(session: Open, snag: Snag) {
  return session?.edit("take", `look at ${snag.kind} again`, [{ path: `dismissed/${snag.key}`, remove: true }]);
}
