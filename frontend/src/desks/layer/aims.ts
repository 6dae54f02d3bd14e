// Aims of a shot: what eyes can look at, and letting them look at one from the playhead on.
import { freshId, pathOf } from "../../api/changes";
import { api, type Change, type LayerDoc } from "../../api/client";
import { clock } from "../../playback/clock";
import { notify } from "../../shared/notices";
import { faceLayersOf, nameOfRole, rolesOf, type ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { chooseSpan } from "./layerState";

export type Aim = ShotState["opened"]["shot"]["body"]["aims"][string];
/** [frame, aim] by id. */
export type Looks = Record<string, [number, string]>;
type Choice = { key: string; name: string };

/** Looks that are no aims. */
export const NO_AIM: Choice[] = [
  { key: "captured", name: "as captured" },
  { key: "held", name: "steady where it is" },
];

/** The aims that the role which is worked on can look at: all but its own eyes. Pure. */
export const aimsOf = (shot: ShotState): [string, Aim][] =>
  Object.entries(shot.opened.shot.body.aims)
    .filter(([, aim]) => aim.role !== shot.role)
    .sort(([, a], [, b]) => a.name.localeCompare(b.name));

/** What a look can be at, by name. Pure. */
export const choicesOf = (shot: ShotState): Choice[] => [
  ...aimsOf(shot).map(([key, aim]) => ({ key, name: aim.name })),
  ...NO_AIM,
];

/** What a new aim of a kind begins as. Pure. */
export function newAim(shot: ShotState, lies: Aim["lies"], of = ""): Record<string, unknown> {
  const count = Object.values(shot.opened.shot.body.aims).filter((a) => a.lies === lies).length;
  const numbered = (word: string) => (count ? `${word} ${count + 1}` : word);
  const stands = shot.opened.shot.body.roles[shot.role]?.at ?? [0, 0, 0];
  if (lies === "eyes") return { name: `eyes of ${nameOfRole(shot, of)}`.slice(0, 80), lies, role: of };
  if (lies === "prop")
    return { name: numbered(shot.opened.shot.body.props[of]?.name ?? "prop").slice(0, 80), lies, prop: of };
  if (lies === "camera") return { name: "camera", lies };
  if (lies === "head") return { name: numbered("held before the face"), lies, at: [0.1, -0.1, 0.4] };
  return { name: numbered("point"), lies, at: [stands[0] + 0.5, 1.5, stands[2] + 1] };
}

/** The other roles, whose eyes can be looked at. Pure. */
export const othersOf = (shot: ShotState): string[] => rolesOf(shot).filter((r) => r !== shot.role);

/** The gaze maker that looks go into: that of the open layer, else of the role's highest layer that has one. Pure. */
export function gazeOf(shot: ShotState): { layer: LayerDoc; key: string; looks: Looks } | null {
  const layers = faceLayersOf(shot, shot.role).filter((l) => !l.body.locked);
  const open = layers.find((l) => l.id === shot.layer);
  for (const layer of [...(open ? [open] : []), ...layers]) {
    const found = Object.entries(layer.body.makers).find(([, m]) => m.maker === "gaze");
    if (found) return { layer, key: found[0], looks: ((found[1] as { looks?: Looks }).looks ?? {}) as Looks };
  }
  return null;
}

/** The change that makes the eyes look at an aim from a frame on: a look on this frame is another one then. Pure. */
export function lookChange(maker: string, looks: Looks, frame: number, aim: string): Change {
  const there = Object.keys(looks).find((id) => looks[id]![0] === frame);
  return { path: pathOf("makers", maker, "looks", there ?? freshId("l")), value: [frame, aim] };
}

/** From the playhead on the eyes of the role look at an aim; a layer with a gaze maker is made where there is none. */
export async function lookHere(aim: string, name: string) {
  const session = activeShot();
  if (!session?.shot) return;
  const frame = clock.frame;
  let found = gazeOf(session.shot);
  if (!found) {
    chooseSpan(null);
    await session.addLayer("gaze", "add");
    const layer = session.layer;
    if (!layer) return;
    const maker = { maker: "gaze", rank: 1, looks: {} };
    const key = freshId("m");
    await session.edit(layer.id, "look at aims", [{ path: pathOf("makers", key), value: maker }]);
    found = { layer, key, looks: {} };
  }
  const { layer, key, looks } = found;
  if (session.shot.layer !== layer.id) session.openLayer(layer.id);
  await session.edit(layer.id, `look at ${name}`.slice(0, 120), [lookChange(key, looks, frame, aim)]);
}

/** The captured looks become looks of a gaze maker; says how near they were to what they are at. */
export async function takeLooks(layer: LayerDoc, maker: string, within = 6) {
  await activeShot()?.changeLayer(layer.id, async (l) => {
    const found = await api.snapLooks(l.id, maker, l.version, within);
    const error = found.error === null ? "" : `, ${found.error.toFixed(1)} deg off them before`;
    notify({
      kind: "info",
      message: `${found.fixations} looks found: ${found.met} at aims${error}; the rest is held steady where it is`,
    });
    return found.layer;
  });
}
