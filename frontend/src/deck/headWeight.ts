// How much of the head the face moves, as a line in the deck with keys that are dragged.
import { create } from "zustand";
import { freshId } from "../api/changes";
import type { Change } from "../api/client";
import { keySet, weightAt, weightOverTime, type Weight } from "../drawer/weights";
import type { Track } from "../timekit/track";
import { weightTrack, type WeightKey } from "../timekit/tracks/weight";

/** The key that is dragged, where it is now. */
export const useHeadDrag = create<{ key: WeightKey | null }>(() => ({ key: null }));

type Of = {
  weight: Weight;
  /** Of the weight in its document. */
  path: string;
  drag: WeightKey | null;
  onTry: (changes: Change[]) => void;
  onKeep: (label: string, changes: Change[]) => Promise<void> | void;
};

/** A weight with one key elsewhere. Pure. */
export function withKey(weight: Weight, key: WeightKey | null): Weight {
  const row = key && weight.keys[key.id];
  if (!key || !row) return weight;
  return { ...weight, keys: { ...weight.keys, [key.id]: [key.frame, key.value, row[2], row[3], row[4]] } };
}

export function headWeightTrack({ weight, path, drag, onTry, onKeep }: Of): Track {
  const shown = withKey(weight, drag);
  const moved = (key: WeightKey): Change[] => [
    { path: `${path}/keys/${key.id}`, value: withKey(weight, key).keys[key.id] },
  ];
  return weightTrack({
    id: "head weight",
    word: "face moves the head",
    keys: Object.entries(shown.keys).map(([id, row]) => ({ id, frame: row[0], value: row[1] })),
    at: weightOverTime(shown),
    onDrag: (key) => {
      useHeadDrag.setState({ key });
      onTry(moved(key));
    },
    onDrop: (key) => {
      const done = onKeep("drag a key of the head weight", moved(key));
      void Promise.resolve(done).finally(() => useHeadDrag.setState({ key: null }));
    },
    onAdd: (frame, value) => {
      const first = !Object.keys(weight.keys).length;
      // The first one keeps the rest as it was: it stands where the line is.
      const change = first
        ? { path: `${path}/keys/${freshId("k")}`, value: [frame, weightAt(weight, frame), 0, 0, "linear"] }
        : keySet(`${path}/keys`, weight.keys, frame, value);
      void onKeep("key the head weight", [change]);
    },
    onRemove: (id) => void onKeep("take a key of the head weight away", [{ path: `${path}/keys/${id}`, remove: true }]),
  });
}
