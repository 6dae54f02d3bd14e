// Edits of the keys of what is open: they go to the server in its queue, one after the other; what a drag shows
// comes from the server as well.
import type { KeyEdit } from "../api/client";
import { clock } from "../playback/clock";
import { useWorkspace } from "../workspace/workspace";
import { chosenIds, copied, count, nextKey, useKeys, type Chosen, type Hand } from "./keys";
import type { KeyHolder } from "./keyHolder";

type Open = KeyHolder | null;

/** The keys that are worked on. */
export const hand = (open: Open): Hand => open?.hand ?? {};

/** Makes an edit and keeps it; `after` is what is chosen then. */
export async function keep(open: Open, label: string, edit: KeyEdit, after?: Chosen): Promise<void> {
  await open?.editKeys(label, edit);
  // Which keys are chosen is said of what is open.
  if (!open?.closed) useKeys.setState({ drag: null, ...(after ? { chosen: after } : {}) });
}

/** Shows an edit without keeping it. */
export function show(open: Open, edit: KeyEdit) {
  open?.tryKeys(edit);
}

/** An edit of the chosen keys. */
export function ofChosen(open: Open, what: string, more: Record<string, unknown> = {}): KeyEdit | null {
  const channels = chosenIds(hand(open), useKeys.getState().chosen);
  return Object.keys(channels).length ? { do: what, channels, ...more } : null;
}

/** The channels that are shown. */
export const shownOf = (open: Open): string[] => open?.shownOnRig ?? useWorkspace.getState().selected;

/** An edit of the channels that are shown. */
export function ofShown(open: Open, what: string, more: Record<string, unknown> = {}): KeyEdit | null {
  const own = shownOf(open).filter((c) => open?.channels.includes(c));
  return own.length ? { do: what, channels: Object.fromEntries(own.map((c) => [c, []])), ...more } : null;
}

export function onChosen(open: Open, label: string, what: string, more: Record<string, unknown> = {}, after?: Chosen) {
  const edit = ofChosen(open, what, more);
  if (edit) void keep(open, label, edit, after);
}

export function onShown(open: Open, label: string, what: string, more: Record<string, unknown> = {}) {
  const edit = ofShown(open, what, more);
  if (edit) void keep(open, label, edit, {});
}

/** Frames and value by which the chosen keys are nudged. */
export function nudge(open: Open, frames: number, value: number) {
  const { chosen } = useKeys.getState();
  const after = Object.fromEntries(Object.entries(chosen).map(([c, f]) => [c, f.map((x) => x + frames)]));
  onChosen(open, "nudge keys", "move", { frames, value, snap: useKeys.getState().snap }, after);
}

const mayHold = (open: Open, channel: string) =>
  !!open && (channel in open.hand || (open.takesKeys && open.channels.includes(channel)));

export function insertHere(open: Open) {
  const channels = shownOf(open).filter((c) => mayHold(open, c));
  if (!channels.length) return;
  const frame = clock.frame;
  void keep(
    open,
    "insert keys",
    { do: "insert", channels: Object.fromEntries(channels.map((c) => [c, []])), frame },
    Object.fromEntries(channels.map((c) => [c, [frame]])),
  );
}

export function copyChosen(open: Open): number {
  useKeys.setState((s) => ({ copied: copied(hand(open), s.chosen) }));
  return count(useKeys.getState().chosen);
}

export function pasteHere(open: Open) {
  const { copied: rows, offset: value } = useKeys.getState();
  const channels = Object.keys(rows).filter((c) => mayHold(open, c));
  if (channels.length)
    void keep(
      open,
      "paste keys",
      {
        do: "paste",
        channels: Object.fromEntries(channels.map((c) => [c, []])),
        copied: rows,
        frame: clock.frame,
        value,
      },
      {},
    );
}

/** To the next or previous key of the shown channels; whether there was one. */
export function jumpKey(open: Open, backward: boolean): boolean {
  const frame = nextKey(hand(open), shownOf(open), clock.frame, backward);
  if (frame === undefined || !Number.isFinite(frame)) return false;
  clock.seekFrame(frame);
  return true;
}
