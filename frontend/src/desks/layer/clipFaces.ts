// Small pictures for the clips of the reel: the face of the role that plays a clip, at its most telling frame.
import { useEffect, useState } from "react";
import { framesOf } from "../../shared/seconds";
import type { Table } from "../../api/bundle";
import { pictureOf } from "../../viewer/stagePicture";
import { rolesOf, type ShotState } from "../../workspace/state";
import { lengthOf } from "./shotModel";

const LOOKED_AT = 60; // frames of a clip that are compared
const USED = 0.12; // weight of a target that is seen
const SHUT = 0.8; // weight of one that is at its end, as in a blink
/** Pictures of clips that a stage has shown since the page was opened. */
const taken = new Map<string, string>();

/** The frame of a stretch at which most of the face is in use. Pure. */
export function tellingFrame(weights: Table, from: number, to: number): number {
  const [frames = 0, columns = 0] = weights.shape;
  const first = Math.min(Math.max(Math.ceil(from), 0), frames - 1);
  const last = Math.min(Math.max(Math.floor(to), first), frames - 1);
  const step = Math.max(1, Math.ceil((last - first) / LOOKED_AT));
  let best = first;
  let most = -1;
  for (let frame = first; frame <= last; frame += step) {
    let used = 0;
    for (let i = frame * columns; i < (frame + 1) * columns; i++) {
      const weight = Math.abs(weights.data[i] || 0);
      if (weight > USED && weight < SHUT) used++;
    }
    if (used > most) [best, most] = [frame, used];
  }
  return best;
}

/** The clips of a shot with the role that plays each and the frame to show; those that have a picture are left out. Pure. */
export function wanted(
  shot: ShotState,
  has: (clip: string) => boolean,
): { clip: string; role: string; frame: number }[] {
  const out: { clip: string; role: string; frame: number }[] = [];
  const { roles, rate } = shot.opened.shot.body;
  for (const role of rolesOf(shot)) {
    const weights = shot.bodies[role]?.weights;
    if (!weights) continue;
    for (const p of Object.values(roles[role]!.placements)) {
      if (p.mute || has(p.clip) || out.some((o) => o.clip === p.clip)) continue;
      const from = framesOf(p.start, rate);
      out.push({ clip: p.clip, role, frame: tellingFrame(weights, from, from + framesOf(lengthOf(p), rate)) });
    }
  }
  return out;
}

/** Pictures by clip; those that are missing are taken one after the other while the page has nothing else to do. */
export function useClipFaces(shot: ShotState): Map<string, string> {
  const [, drawn] = useState(0);
  useEffect(() => {
    const next = wanted(shot, (clip) => taken.has(clip))[0];
    if (!next) return;
    const take = () => {
      const picture = pictureOf(next.role, { body: shot.bodies[next.role]!, frame: next.frame });
      if (!picture) return; // no stage: a later drawing of the panel asks again
      taken.set(next.clip, picture);
      drawn((n) => n + 1);
    };
    const waiting = requestIdleCallback(take, { timeout: 2000 });
    return () => cancelIdleCallback(waiting);
  });
  return taken;
}
