// Edits of the keys of a session: they go to the server in its queue, one after the other; what a drag shows
// comes from the server as well.
import { api, type KeyEdit } from "../api/client";
import { clock } from "../playback/clock";
import type { TakeSession } from "../workspace/session";
import { useWorkspace } from "../workspace/workspace";
import { chosenIds, copied, count, handOf, nextKey, useKeys, type Chosen } from "./keys";

type Open = TakeSession | null;

/** What was done by hand on the session's take. */
export const hand = (session: Open) => handOf(session?.now.opened?.take.body);

/** Makes an edit and keeps it; `after` is what is chosen then. */
export async function keep(session: Open, label: string, edit: KeyEdit, after?: Chosen): Promise<void> {
  await session?.change(async (take) => (await api.editKeys(take.id, take.version, label, edit)).document);
  // Which keys are chosen is said of what is open.
  if (!session?.closed) useKeys.setState({ drag: null, ...(after ? { chosen: after } : {}) });
}

/** Shows an edit without keeping it. */
export function show(session: Open, edit: KeyEdit) {
  void session?.preview({ edit });
}

/** An edit of the chosen keys. */
export function ofChosen(session: Open, what: string, more: Record<string, unknown> = {}): KeyEdit | null {
  const channels = chosenIds(hand(session), useKeys.getState().chosen);
  return Object.keys(channels).length ? { do: what, channels, ...more } : null;
}

/** An edit of the channels that are shown. */
export function ofShown(session: Open, what: string, more: Record<string, unknown> = {}): KeyEdit | null {
  const { selected } = useWorkspace.getState();
  const curves = session?.now.curves;
  const own = selected.filter((c) => curves?.channels.includes(c));
  return own.length ? { do: what, channels: Object.fromEntries(own.map((c) => [c, []])), ...more } : null;
}

export function onChosen(
  session: Open,
  label: string,
  what: string,
  more: Record<string, unknown> = {},
  after?: Chosen,
) {
  const edit = ofChosen(session, what, more);
  if (edit) void keep(session, label, edit, after);
}

export function onShown(session: Open, label: string, what: string, more: Record<string, unknown> = {}) {
  const edit = ofShown(session, what, more);
  if (edit) void keep(session, label, edit, {});
}

/** Frames and value by which the chosen keys are nudged. */
export function nudge(session: Open, frames: number, value: number) {
  const { chosen } = useKeys.getState();
  const after = Object.fromEntries(Object.entries(chosen).map(([c, f]) => [c, f.map((x) => x + frames)]));
  onChosen(session, "nudge keys", "move", { frames, value, snap: useKeys.getState().snap }, after);
}

export function insertHere(session: Open) {
  const held = Object.keys(hand(session));
  const { selected } = useWorkspace.getState();
  const channels = selected.filter((c) => held.includes(c));
  if (!channels.length) return;
  const frame = clock.frame;
  void keep(
    session,
    "insert keys",
    { do: "insert", channels: Object.fromEntries(channels.map((c) => [c, []])), frame },
    Object.fromEntries(channels.map((c) => [c, [frame]])),
  );
}

export function copyChosen(session: Open): number {
  useKeys.setState((s) => ({ copied: copied(hand(session), s.chosen) }));
  return count(useKeys.getState().chosen);
}

export function pasteHere(session: Open) {
  const { copied: rows, offset: value } = useKeys.getState();
  const channels = Object.keys(rows).filter((c) => hand(session)[c]);
  if (channels.length)
    void keep(
      session,
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
export function jumpKey(session: Open, backward: boolean): boolean {
  const frame = nextKey(hand(session), useWorkspace.getState().selected, clock.frame, backward);
  if (frame === undefined || !Number.isFinite(frame)) return false;
  clock.seekFrame(frame);
  return true;
}
