// The commands of the Layer desk: cutting clips, layers, spans.
import { freshId, pathOf } from "../../api/changes";
import { api, type Change, type LayerDoc } from "../../api/client";
import type { Command } from "../../commands/commands";
import { clock } from "../../playback/clock";
import { notify } from "../../shared/notices";
import { framesOf, secondsOf } from "../../shared/seconds";
import { isTouchup } from "../../workspace/rig";
import { faceLayersOf, layersOf } from "../../workspace/state";
import { shownOf } from "../../keys/edit";
import { activeShot } from "../../workspace/workspace";
import { useGrabbing } from "./grab";
import { keepVersion } from "./layerVersions";
import { choosePlacement, chooseSpan, editLayer, keepFace, openLayer, setBrush, useLayerDesk } from "./layerState";
import { replaceBlinks } from "./replaceBlinks";
import { lengthOf, placementPath, spanAgain } from "./shotModel";

const GROUP = "Layer";
const shotNow = () => activeShot()?.shot?.opened.shot ?? null;
const chosen = () => useLayerDesk.getState().placement;
const placed = () => {
  const at = chosen();
  return (at && shotNow()?.body.roles[at.role]?.placements[at.key]) ?? null;
};
const here = () => secondsOf(clock.frame, shotNow()!.body.rate);

/** Cuts the chosen clip at the playhead. */
export function splitHere() {
  const at = chosen();
  if (at && placed())
    void activeShot()?.cut({ do: "split", label: "split a clip", role: at.role, placement: at.key, at: here() });
}

/** The chosen clip and the part that goes on behind it become one. */
export function joinNext() {
  const at = chosen();
  if (at && placed()) void activeShot()?.cut({ do: "join", label: "join two clips", role: at.role, placement: at.key });
}

/** The chosen clip goes, and what lies behind it on its role closes up. */
export function takeOut() {
  const at = chosen();
  if (!at || !placed()) return;
  choosePlacement(null);
  void activeShot()?.cut({ do: "take out", label: "take out a clip", role: at.role, placement: at.key });
}

/** The chosen span goes, else the chosen clip; what lies behind it stays. */
export function removeChosen() {
  const { span } = useLayerDesk.getState();
  const at = chosen();
  if (span) {
    chooseSpan(null);
    void activeShot()?.edit(span.layer, "remove a span", [{ path: pathOf("spans", span.key), remove: true }]);
  } else if (at && (placed() || at.role === "")) {
    choosePlacement(null);
    void activeShot()?.edit(shotNow()!.id, at.role ? "remove a clip" : "remove a sound", [
      { path: placementPath(at.role, at.key), remove: true },
    ]);
  }
}

/** As much time as the range is long is put in where it begins; everything behind it moves along, of one role or of all. */
export function makeRoom(role = "") {
  const shot = shotNow();
  const { range } = clock;
  if (!shot || !range) return;
  const seconds = secondsOf(range.to - range.from + 1, shot.body.rate);
  const at = secondsOf(range.from, shot.body.rate);
  void activeShot()?.cut({ do: "make room", label: "make room", role, at, seconds });
}

export function letSoundGo() {
  const at = chosen();
  if (at)
    void activeShot()?.cut({ do: "let the sound go", label: "let the sound go", role: at.role, placement: at.key });
}

/** What the chosen channels are here is held by keys in the open layer: nothing changes, and what is changed beside it stays beside. */
export function holdHere() {
  const layer = openLayer();
  if (!layer || layer.body.does !== "add") return;
  const rest = Object.fromEntries(shownOf(activeShot()).map((c) => [c, 0]));
  keepFace(rest);
}

/** The changes that make keys smooth from a frame on, or within a range: of some channels, of all where none of them has any. Pure. */
export function smoothChanges(layer: LayerDoc, channels: string[], from: number, to = Infinity): Change[] {
  const tables = Object.entries(layer.body.keys);
  const chosen = tables.filter(([c]) => channels.includes(c));
  return (chosen.length ? chosen : tables).flatMap(([channel, table]) =>
    Object.entries(table)
      .filter(([, row]) => row[0] >= from - 0.5 && row[0] <= to + 0.5 && row[4] !== "smooth")
      .map(([id, row]) => ({ path: pathOf("keys", channel, id), value: [row[0], row[1], 0, 0, "smooth"] })),
  );
}

/** Keys of the open layer become smooth from the playhead on, or in the marked range: of the chosen channels, else of all. */
export function smoothFromHere() {
  const layer = openLayer();
  if (!layer) return;
  const { range } = clock;
  const changes = smoothChanges(
    layer,
    shownOf(activeShot()),
    range ? range.from : clock.frame,
    range ? range.to : undefined,
  );
  if (!changes.length) return notify({ kind: "info", message: "no key from here on is to be made smooth" });
  void activeShot()?.edit(layer.id, "smooth from here", changes);
}

/** Shows keys held until the next, or as they are. */
export const stepKeys = () => void activeShot()?.setStepped(!activeShot()!.shot!.stepped);

/** The chosen span once more, beginning at the playhead. */
export function repeatSpan() {
  const { span } = useLayerDesk.getState();
  const layer = span && activeShot()?.shot?.opened.layers.find((l) => l.id === span.layer);
  const own = layer?.body.spans[span!.key];
  if (!layer || !own) return;
  const key = freshId("s");
  void activeShot()?.edit(layer.id, "repeat a span", [
    { path: pathOf("spans", key), value: spanAgain(own, clock.frame) },
  ]);
  chooseSpan({ layer: layer.id, key });
}

/** Jumps to where a clip or a span begins or ends. */
export function nextPlace(backward: boolean) {
  const shot = activeShot()?.shot;
  if (!shot) return;
  const { roles, rate } = shot.opened.shot.body;
  const frames = Object.values(roles).flatMap((r) =>
    Object.values(r.placements).flatMap((p) => {
      const from = framesOf(p.start, rate);
      return [from, from + framesOf(lengthOf(p), rate)];
    }),
  );
  const own = shot.opened.layers.filter((l) => l.body.role === shot.role && !l.body.archived);
  for (const layer of own) for (const s of Object.values(layer.body.spans)) frames.push(s.first, s.last);
  const places = [...new Set(frames.map((f) => Math.ceil(f - 1e-6)))].sort((a, b) => a - b);
  const next = backward ? places.filter((f) => f < clock.frame).pop() : places.find((f) => f > clock.frame);
  if (next !== undefined) clock.seekFrame(next);
}

/** A new layer on top of the role that is worked on. */
export function addLayer(does: LayerDoc["body"]["does"]) {
  const shot = activeShot()?.shot;
  if (!shot?.role) return;
  chooseSpan(null);
  void activeShot()?.addLayer(`layer ${faceLayersOf(shot, shot.role).length + 1}`, does);
}

/** A new layer on the rig of the character that plays the role. */
export function addTouchup() {
  const shot = activeShot()?.shot;
  if (!shot?.role) return;
  chooseSpan(null);
  const count = layersOf(shot, shot.role).filter(isTouchup).length;
  void activeShot()?.addLayer(`touch-up ${count + 1}`, "add", true);
}

/** What the open layer says is kept beside it. */
export function keepOpenVersion() {
  const layer = openLayer();
  if (layer)
    editLayer(layer, `keep a version of ${layer.body.name}`.slice(0, 120), keepVersion(layer.body, freshId("v")));
}

/** The layers become keys of one on top, in the marked range or everywhere. */
export function bakeLayers() {
  const shot = activeShot()?.shot?.opened.shot.id;
  const within: [number, number] | null = clock.range && [clock.range.from, clock.range.to];
  if (shot) void activeShot()?.makeLayer((role) => api.bakeLayers(shot, { role, within, tolerance: 0.005 }));
}

const withClip = () => !!placed();
const withShot = () => !!activeShot()?.shot?.role;
const withLayer = () => !!activeShot()?.layer;
const PANEL_WORDS = {
  clips: "clips",
  layers: "layers",
  keys: "keys of the open layer",
  makers: "makers",
  words: "words",
  poses: "poses",
  snags: "snags of the role",
} as const;
const showPanel = (panel: keyof typeof PANEL_WORDS) => useLayerDesk.setState({ panel });

export const LAYER_COMMANDS: Command[] = [
  ...(Object.keys(PANEL_WORDS) as (keyof typeof PANEL_WORDS)[]).map((panel) => ({
    id: `shot.panel.${panel}`,
    group: GROUP,
    name: `Show the ${PANEL_WORDS[panel]}`,
    when: withShot,
    run: () => showPanel(panel),
  })),
  ...(["add", "replace", "scale"] as const).map((does) => ({
    id: `shot.new.${does}`,
    group: GROUP,
    name: `A new layer that ${does}s`,
    when: withShot,
    run: () => addLayer(does),
  })),
  { id: "shot.new.touchup", group: GROUP, name: "A new touch-up layer, on the rig", when: withShot, run: addTouchup },
  { id: "shot.version", group: GROUP, name: "Keep a version of the open layer", when: withLayer, run: keepOpenVersion },
  { id: "shot.bake", group: GROUP, name: "Bake the layers to keys", when: withShot, run: bakeLayers },
  {
    id: "shot.blinks",
    group: GROUP,
    name: "Replace the captured blinks",
    when: withShot,
    run: () => void replaceBlinks(),
  },
  { id: "shot.split", group: GROUP, name: "Split the chosen clip here", keys: ["X"], when: withClip, run: splitHere },
  {
    id: "shot.join",
    group: GROUP,
    name: "Join the chosen clip with the next",
    keys: ["Shift+X"],
    when: withClip,
    run: joinNext,
  },
  {
    id: "shot.out",
    group: GROUP,
    name: "Take the chosen clip out and close up",
    keys: ["Shift+Delete"],
    when: withClip,
    run: takeOut,
  },
  { id: "shot.remove", group: GROUP, name: "Remove the chosen span or clip", keys: ["Delete"], run: removeChosen },
  {
    id: "shot.again",
    group: GROUP,
    name: "The chosen span again at the playhead",
    keys: ["R"],
    when: () => !!useLayerDesk.getState().span,
    run: repeatSpan,
  },
  {
    id: "shot.room",
    group: GROUP,
    name: "Make room as long as the range",
    keys: ["Shift+R"],
    when: () => !!clock.range,
    run: () => makeRoom(),
  },
  {
    id: "shot.hold",
    group: GROUP,
    name: "Hold the chosen channels here (keys of 0)",
    keys: ["K"],
    when: () => !!activeShot()?.layer,
    run: holdHere,
  },
  {
    id: "shot.smooth",
    group: GROUP,
    name: "Smooth from here (keys of the open layer)",
    keys: ["Shift+H"],
    when: () => !!activeShot()?.layer,
    run: smoothFromHere,
  },
  {
    id: "shot.stepped",
    group: GROUP,
    name: "Stepped view: hold every key until the next",
    keys: ["B"],
    when: () => !!activeShot()?.shot,
    run: stepKeys,
  },
  {
    id: "shot.brush",
    group: GROUP,
    name: "Changes of the face: a key, or a brush over frames",
    keys: ["Shift+B"],
    run: () => setBrush(!useLayerDesk.getState().brush),
  },
  {
    id: "shot.mirror",
    group: GROUP,
    name: "Both sides of the face together, or one",
    keys: ["M"],
    run: () => {
      const mirrored = !useGrabbing.getState().mirrored;
      useGrabbing.setState({ mirrored, words: mirrored ? "both sides go together" : "one side alone" });
    },
  },
  { id: "shot.grab", group: GROUP, name: "Take hold of the face, Shift fine", gesture: "Drag a place of it" },
  { id: "shot.trim", group: GROUP, name: "Trim a clip, a span or its leads", gesture: "Drag its end" },
  {
    id: "shot.span",
    group: GROUP,
    name: "Change the face over a range",
    gesture: "Shift drag on the ruler, then a slider",
  },
];
