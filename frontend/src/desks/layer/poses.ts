// Poses on a face: how far, mirrored, on which regions; as a key, or over a span where one is marked.
import type { Schemas } from "../../api/client";
import { clock } from "../../playback/clock";
import { notify } from "../../shared/notices";
import { exchanged } from "../../shared/regions";
import { isTouchup } from "../../workspace/rig";
import { activeShot, sessionState } from "../../workspace/workspace";
import { keepFace, openLayer, saidOf, tryFace } from "./layerState";

export type Pose = Schemas["PoseDocument"];
/** share: 0..1 of the way to the pose; regions: on which it is put, none for all. */
export type Laying = { share: number; mirrored: boolean; regions: string[] };

/** A pose with its sides exchanged. Pure. */
export function mirroredPose(values: Record<string, number>): Record<string, number> {
  return Object.fromEntries(
    Object.entries(values).map(([channel, value]) => {
      if (channel === "headTurn" || channel === "headTilt") return [channel, -value];
      return [exchanged(channel), value];
    }),
  );
}

/** What a layer has to say so that the face goes so far to a pose. now: what a channel is with the layer as it is; said: what the layer
 * says of it; adds: whether it is added, or takes the place. Pure. */
export function layPose(
  values: Record<string, number>,
  { share, mirrored, regions }: Laying,
  regionOf: Record<string, string>,
  adds: boolean,
  now: (channel: string) => number,
  said: (channel: string) => number,
): Record<string, number> {
  const out: Record<string, number> = {};
  for (const [channel, goal] of Object.entries(mirrored ? mirroredPose(values) : values)) {
    if (regions.length && !regions.includes(regionOf[channel] ?? "")) continue;
    const by = (goal - now(channel)) * share;
    const value = adds ? said(channel) + by : now(channel) + by;
    // What does not change needs no key, unless a layer that replaces would say something else there.
    if (Math.abs(by) > 5e-4 || (!adds && goal !== 0)) out[channel] = Math.round(value * 1e4) / 1e4;
  }
  return out;
}

/** What the channels are at a frame, with everything. Pure. */
export function standing(frame: number): (channel: string) => number {
  const { curves } = sessionState();
  const at = new Map(curves?.channels.map((c, i) => [c, i]));
  const wide = curves?.channels.length ?? 0;
  return (channel) => {
    const column = at.get(channel);
    const value = column === undefined ? 0 : curves!.tidied.data[frame * wide + column]!;
    return Number.isFinite(value) ? value : 0;
  };
}

/** Begins to lay a pose on the face: it can be tried at any share of the way, then kept. Null where no layer takes it in. */
export function beginPose(pose: Pose, laying: Omit<Laying, "share">, regionOf: Record<string, string>) {
  const layer = openLayer();
  if (!layer) return null;
  const why = isTouchup(layer)
    ? "a pose is of the performance: open a layer beneath the cast sheet"
    : layer.body.does === "scale"
      ? "a layer that scales takes no pose: open one that adds or replaces"
      : "";
  if (why) {
    notify({ kind: "info", message: why });
    return null;
  }
  const reach = Object.keys(layer.body.regions).filter((r) => layer.body.regions[r]);
  const on = laying.regions.length ? laying.regions.filter((r) => !reach.length || reach.includes(r)) : reach;
  const { frame, range } = clock;
  const now = standing(range ? Math.round((range.from + range.to) / 2) : frame);
  const before = new Map<string, number>();
  // What the layer says is read once: trying changes nothing that is stored.
  const said = (c: string) => before.get(c) ?? (before.set(c, saidOf(layer, c, frame)), before.get(c)!);
  const valuesAt = (share: number) =>
    layPose(pose.body.values, { ...laying, share, regions: on }, regionOf, layer.body.does === "add", now, said);
  return {
    to: (share: number) => tryFace(valuesAt(share)),
    keep: (share: number) => {
      const values = valuesAt(share);
      if (Object.keys(values).length) keepFace(values);
      else void activeShot()?.preview({});
    },
  };
}
