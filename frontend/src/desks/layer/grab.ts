// Taking hold of a place of the face: the server says which channels bring it where the pointer is; the open layer takes them in.
import { create } from "zustand";
import { api } from "../../api/client";
import { clock } from "../../playback/clock";
import { notify } from "../../shared/notices";
import { exchanged } from "../../shared/regions";
import type { HeldPlace } from "../../viewer/stageScene";
import { isTouchup, rigWords } from "../../workspace/rig";
import { activeShot } from "../../workspace/workspace";
import { keepFace, openLayer, saidOf, tryFace } from "./layerState";

/** mirrored: the other side of the face does the same; channels: those that were changed last, which can be typed. */
export const useGrabbing = create<{ words: string; mirrored: boolean; channels: string[] }>(() => ({
  words: "",
  mirrored: false,
  channels: [],
}));
const FINE = 0.25;

/** The channel of the other side, or the same where it has none. Pure. */
export function otherSide(channel: string, known: string[]): string {
  const swapped = exchanged(channel);
  return known.includes(swapped) ? swapped : channel;
}

/** What is changed, the largest first: "mouthLowerDownLeft -0.21". Pure. */
export function inWords(changes: Record<string, number>, most = 4): string {
  const sorted = Object.entries(changes).sort((a, b) => Math.abs(b[1]) - Math.abs(a[1]));
  const said = sorted.slice(0, most).map(([c, v]) => `${rigWords(c)} ${v > 0 ? "+" : ""}${v.toFixed(2)}`);
  return said.join(", ") + (sorted.length > most ? ` and ${sorted.length - most} more` : "");
}

/** Begins to drag a place of the face; null where no layer takes it in. */
export function beginGrab(held: HeldPlace, known: string[]) {
  const shot = activeShot();
  if (!shot?.shot) return null;
  shot.choose(held.role);
  const layer = openLayer();
  if (!layer || layer.body.does !== "add") return null;
  clock.pause();
  const frame = clock.frame;
  const before = (channel: string) => saidOf(layer, channel, frame);
  let wanted: [number, number] | null = null;
  let asking: Promise<void> | null = null;
  let refused = false;
  let values: Record<string, number> = {};

  const ask = async () => {
    while (wanted) {
      const now = wanted;
      wanted = null;
      try {
        const { channels, part } = await api.grab(shot.id, {
          role: held.role,
          frame,
          mesh: held.mesh,
          place: held.place,
          plane: held.plane,
          wanted: now,
          rig: isTouchup(layer),
          regions: Object.keys(layer.body.regions).filter((r) => layer.body.regions[r]),
        });
        // Both eyes look and a head turns the same way: only what the face does has another side.
        const both = part === "face" && useGrabbing.getState().mirrored;
        const changes = both ? bothSides(channels, known) : channels;
        values = Object.fromEntries(
          Object.entries(changes).map(([c, v]) => [c, Math.round((before(c) + v) * 1e4) / 1e4]),
        );
        useGrabbing.setState({ words: inWords(changes), channels: Object.keys(changes) });
        tryFace(values);
      } catch (error) {
        wanted = null;
        refused = true; // said once, not at each move
        notify(error as never);
      }
    }
  };
  return {
    move: (dx: number, dy: number, fine: boolean) => {
      if (refused) return;
      const by = held.metresPerPixel * (fine ? FINE : 1);
      wanted = [dx * by, -dy * by];
      asking ??= ask().finally(() => (asking = null));
    },
    release: () =>
      void Promise.resolve(asking).then(() => {
        keepFace(values);
        // The deck shows what was changed of a rig, as it has nothing else to show of it.
        if (isTouchup(layer)) void shot.showOnRig([...new Set([...(shot.shownOnRig ?? []), ...Object.keys(values)])]);
      }),
  };
}

/** The other side does the same. Pure. */
export function bothSides(changes: Record<string, number>, known: string[]): Record<string, number> {
  const out = { ...changes };
  for (const [channel, value] of Object.entries(changes)) out[otherSide(channel, known)] ??= value;
  return out;
}
