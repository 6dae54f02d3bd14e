// The snags of what is open: which there are, which one is looked at, and what is done about it.
import { create } from "zustand";
import { Problem, type Snag, type SnagList } from "../api/client";
import { notify } from "../shared/notices";
import { clock } from "../playback/clock";
import { select } from "../workspace/workspace";
import type { SnagHolder } from "./snagHolder";
import { stopTrial, tryOut, useTrial } from "../workspace/trial";

/** of, holder: what was looked through. */
type State = { of: string; holder: SnagHolder | null; list: SnagList | null; chosen: string | null };
type Open = SnagHolder | null;
export const useSnags = create<State>(() => ({ of: "", holder: null, list: null, chosen: null }));
/** What was looked through last. */
export const lookedThrough = (): Open => useSnags.getState().holder;
const { getState: now, setState: set } = useSnags;

let newest = 0;

/** Looks it through again; the newest answer wins. */
export async function lookThrough(open: Open) {
  if (!open) return;
  const mine = ++newest;
  set(now().of === open.snagsOf ? { holder: open } : { of: open.snagsOf, holder: open, list: null, chosen: null });
  try {
    const list = await open.findSnags();
    if (mine !== newest) return;
    set((s) => ({ list, chosen: list.snags.some((f) => f.key === s.chosen) ? s.chosen : null }));
  } catch (error) {
    if (mine === newest) notify(error instanceof Problem ? error : new Problem(0, String(error)));
  }
}

export function forgetSnags() {
  newest++;
  set({ of: "", holder: null, list: null, chosen: null });
}

/** Goes to a snag and shows the channels that it is about. */
export function choose(open: Open, snag: Snag | null) {
  if (useTrial.getState().name) stopTrial();
  set({ chosen: snag?.key ?? null });
  if (!snag) return;
  clock.pause();
  clock.seekFrame(snag.first);
  const curves = open?.now.curves;
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

export function toNext(open: Open, backward: boolean): boolean {
  const list = now().list?.snags;
  if (!list?.length) return false;
  const next = step(list, now().chosen, clock.frame, backward);
  if (next) choose(open, next);
  return true;
}

export const hasMend = (snag: Snag) => snag.steps.length > 0 || snag.soundShift !== 0;

const PUT: Record<string, string> = {
  feet: "feet that stood stand",
  filmed: "the face was filmed by a camera that stands still",
};

/** What a mend does, in a few words; "" where there is none. */
export function mendWords(snag: Snag): string {
  if (snag.soundShift) return `move the sound by ${(snag.soundShift * 1000).toFixed(0)} ms`;
  const words = snag.steps.map((s) => (s.put ? (PUT[String(s.put)] ?? String(s.put)) : String(s.step)));
  return [...new Set(words)].join(", then ");
}

/** Plays the place before and after the mend. */
export function previewMend(open: Open, snag: Snag) {
  void tryOut(
    `mend of ${snag.kind}`,
    { mends: [snag.key] },
    { from: snag.first, to: Math.min(snag.last, snag.first + Math.round(4 * clock.fps)) },
    open,
  );
}

export function acceptMends(open: Open, snags: Snag[]) {
  stopTrial();
  return open?.mendSnags(snags.map((s) => s.key));
}

export function dismiss(open: Open, snag: Snag, reason: string) {
  stopTrial();
  const value = { kind: snag.kind, reason, first: snag.first, last: snag.last };
  return open?.dismissSnag(snag.key, `dismiss ${snag.kind}`, value);
}

export function takeUpAgain(open: Open, snag: Snag) {
  return open?.dismissSnag(snag.key, `look at ${snag.kind} again`, null);
}
