// Edits of keys go to the server, one after the other; what a drag shows comes from it as well.
import { api, type KeyEdit } from "../api/client";
import { clock } from "../playback/clock";
import { change, preview, sessionState, useWorkspace } from "../workspace/workspace";
import { chosenIds, copied, count, handOf, nextKey, useKeys, type Chosen } from "./keys";

/** What was done by hand on the open take. */
export const hand = () => handOf(sessionState().opened?.take.body);

/** Makes an edit and keeps it; `after` is what is chosen then. */
export function keep(label: string, edit: KeyEdit, after?: Chosen): Promise<void> {
  return change(async (take) => (await api.editKeys(take.id, take.version, label, edit)).document).then(() => {
    useKeys.setState({ drag: null, ...(after ? { chosen: after } : {}) });
  });
}

/** Shows an edit without keeping it. */
export function show(edit: KeyEdit) {
  void preview({ edit });
}

/** An edit of the chosen keys. */
export function ofChosen(what: string, more: Record<string, unknown> = {}): KeyEdit | null {
  const channels = chosenIds(hand(), useKeys.getState().chosen);
  return Object.keys(channels).length ? { do: what, channels, ...more } : null;
}

/** An edit of the channels that are shown. */
export function ofShown(what: string, more: Record<string, unknown> = {}): KeyEdit | null {
  const { selected } = useWorkspace.getState();
  const { curves } = sessionState();
  const own = selected.filter((c) => curves?.channels.includes(c));
  return own.length ? { do: what, channels: Object.fromEntries(own.map((c) => [c, []])), ...more } : null;
}

export function onChosen(label: string, what: string, more: Record<string, unknown> = {}, after?: Chosen) {
  const edit = ofChosen(what, more);
  if (edit) void keep(label, edit, after);
}

export function onShown(label: string, what: string, more: Record<string, unknown> = {}) {
  const edit = ofShown(what, more);
  if (edit) void keep(label, edit, {});
}

/** Frames and value by which the chosen keys are nudged. */
export function nudge(frames: number, value: number) {
  const { chosen } = useKeys.getState();
  const after = Object.fromEntries(Object.entries(chosen).map(([c, f]) => [c, f.map((x) => x + frames)]));
  onChosen("nudge keys", "move", { frames, value, snap: useKeys.getState().snap }, after);
}

export function insertHere() {
  const held = Object.keys(hand());
  const { selected } = useWorkspace.getState();
  const channels = selected.filter((c) => held.includes(c));
  if (!channels.length) return;
  const frame = clock.frame;
  void keep(
    "insert keys",
    { do: "insert", channels: Object.fromEntries(channels.map((c) => [c, []])), frame },
    Object.fromEntries(channels.map((c) => [c, [frame]])),
  );
}

export function copyChosen(): number {
  useKeys.setState((s) => ({ copied: copied(hand(), s.chosen) }));
  return count(useKeys.getState().chosen);
}

export function pasteHere() {
  const { copied: rows, offset: value } = useKeys.getState();
  const channels = Object.keys(rows).filter((c) => hand()[c]);
  if (channels.length)
    void keep(
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
export function jumpKey(backward: boolean): boolean {
  const frame = nextKey(hand(), useWorkspace.getState().selected, clock.frame, backward);
  if (frame === undefined || !Number.isFinite(frame)) return false;
  clock.seekFrame(frame);
  return true;
}
