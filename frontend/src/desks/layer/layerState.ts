// What is chosen at the Layer desk, and what a drag in its deck is doing.
import { create } from "zustand";
import { freshId, pathOf } from "../../api/changes";
import type { Change, LayerDoc } from "../../api/client";
import { clock } from "../../playback/clock";
import { notify } from "../../shared/notices";
import type { Hold } from "../../timekit/tracks/blocks";
import type { SpanDrag } from "../../timekit/tracks/layers";
import { activeShot } from "../../workspace/workspace";
import { keySet } from "../../drawer/weights";
import type { Hand } from "./propModel";
import type { Span } from "./shotModel";

export type Folded = { words: boolean; clips: boolean; layers: boolean };
type Chosen = {
  placement: { role: string; key: string } | null;
  span: { layer: string; key: string } | null;
  dragging: { role: string; key: string; hold: Hold; by: number } | null;
  spanDrag: SpanDrag | null;
  wordDrag: { key: string; hold: Hold; by: number } | null;
  /** The hold of a prop that is chosen, and one whose edges are dragged, as it is by then. */
  hold: { prop: string; key: string } | null;
  holdDrag: { prop: string; key: string; now: Hand } | null;
  /** The word that is chosen in the deck. */
  word: string | null;
  /** Lanes of the deck that are folded away. */
  folded: Folded;
  /** Frames over which a change comes and goes about the playhead; 0 where it becomes a key. */
  brush: number;
  panel: "clips" | "layers" | "keys" | "makers" | "words" | "poses" | "props" | "snags";
};
const FOLDS = "dynaface.folds";
const TALL = 1200; // pixels of a window in which all lanes leave the curves their room

/** What was folded last; without that, layers in a low window. */
function keptFolds(): Folded {
  const usual = { words: false, clips: false, layers: (globalThis.innerHeight ?? TALL) < TALL };
  try {
    return { ...usual, ...(JSON.parse(localStorage.getItem(FOLDS) ?? "{}") as Partial<Folded>) };
  } catch {
    return usual;
  }
}

export const useLayerDesk = create<Chosen>(() => ({
  placement: null,
  span: null,
  dragging: null,
  spanDrag: null,
  wordDrag: null,
  hold: null,
  holdDrag: null,
  word: null,
  folded: keptFolds(),
  brush: 0,
  panel: "clips",
}));

export const BRUSH = 12; // frames to either side, until another number is chosen

/** Changes of the face without a range become a key, or come and go about the playhead. */
export const setBrush = (on: boolean) => useLayerDesk.setState({ brush: on ? BRUSH : 0 });

export function fold(lane: keyof Folded) {
  const folded = { ...useLayerDesk.getState().folded };
  folded[lane] = !folded[lane];
  useLayerDesk.setState({ folded });
  try {
    localStorage.setItem(FOLDS, JSON.stringify(folded));
  } catch {
    // Without a store it is kept for as long as the page is open.
  }
}

export const choosePlacement = (placement: Chosen["placement"]) => useLayerDesk.setState({ placement });
export const chooseSpan = (span: Chosen["span"]) => useLayerDesk.setState({ span });

const REST = { add: 0, replace: 0, scale: 1 } as const;
/** The span that changes of the face go into at a frame: the chosen one of the open layer. */
export const spanOf = (layer: LayerDoc, frame: number): string | null => {
  const { span } = useLayerDesk.getState();
  const own = span?.layer === layer.id ? layer.body.spans[span.key] : undefined;
  return own && !brushedElsewhere(own, frame) ? span!.key : null;
};
/** Whether a span is the stroke of a brush at another frame: what is changed now is another stroke. */
const brushedElsewhere = (span: Span, frame: number) =>
  useLayerDesk.getState().brush > 0 && span.first === span.last && span.first !== frame;

/** What the open layer says of a channel where changes go now: of its chosen span, else at the playhead. */
export function saidOf(layer: LayerDoc, channel: string, frame: number): number {
  const span = spanOf(layer, frame);
  if (span) return layer.body.spans[span]!.offset[channel] ?? REST[layer.body.does];
  if (clock.range || useLayerDesk.getState().brush) return REST[layer.body.does]; // a new span begins at nothing
  const rows = Object.values(layer.body.keys[channel] ?? {}).sort((a, b) => a[0] - b[0]);
  const before = rows.filter((r) => r[0] <= frame + 0.5).pop() ?? rows[0];
  return before ? before[1] : REST[layer.body.does];
}

/** Into which span or frame a change of the face goes: a chosen span, a new one over the marked range or with the brush about the
 * playhead, else keys there. */
export type Landing = { changes: Change[]; label: string; span: string | null };

/** The changes that give channels values in a layer, wherever they go now. */
export function landing(layer: LayerDoc, values: Record<string, number>, fresh: string): Landing {
  const span = spanOf(layer, clock.frame);
  const channels = Object.entries(values);
  const words = channels.length === 1 ? channels[0]![0] : `${channels.length} channels`;
  if (span) {
    // A channel has one value or one curve in a span; a value put by hand takes the place of a curve.
    const curved = channels.filter(([c]) => layer.body.spans[span]!.curves[c]);
    return {
      changes: [
        ...channels.map(([c, v]) => ({ path: pathOf("spans", span, "offset", c), value: v })),
        ...curved.map(([c]) => ({ path: pathOf("spans", span, "curves", c), remove: true as const })),
      ],
      label: `span: ${words}`,
      span,
    };
  }
  const { range } = clock;
  if (range) {
    const value = { first: range.from, last: range.to, offset: values };
    return { changes: [{ path: pathOf("spans", fresh), value }], label: `new span: ${words}`, span: fresh };
  }
  const { brush } = useLayerDesk.getState();
  if (brush) {
    const value = { first: clock.frame, last: clock.frame, leadIn: brush, leadOut: brush, offset: values };
    return { changes: [{ path: pathOf("spans", fresh), value }], label: `brush: ${words}`, span: fresh };
  }
  const changes = channels.map(([c, v]) => {
    const keys = layer.body.keys[c];
    if (keys && Object.keys(keys).length) return keySet(pathOf("keys", c), keys, clock.frame, v);
    return { path: pathOf("keys", c), value: { [freshId("s")]: [clock.frame, v, 0, 0, "smooth"] } };
  });
  return { changes, label: `keys: ${words}`, span: null };
}

let fresh = freshId("s");

/** The open layer, if it can be changed; says why where it can't. */
export function openLayer(): LayerDoc | null {
  const layer = activeShot()?.layer ?? null;
  const why = !layer
    ? "no layer is open: add one at Layers"
    : layer.body.locked
      ? `the layer ${layer.body.name} is locked`
      : "";
  if (why) notify({ kind: "info", message: why });
  return why ? null : layer;
}

/** Shows what the face would be with these values in the open layer. */
export function tryFace(values: Record<string, number>) {
  const [shot, layer] = [activeShot(), activeShot()?.layer];
  if (shot && layer && !layer.body.locked)
    void shot.preview({ layers: { [layer.id]: landing(layer, values, fresh).changes } });
}

/** Keeps them. A range that was marked becomes a span, which is chosen then. */
export function keepFace(values: Record<string, number>) {
  const layer = openLayer();
  if (!layer || !Object.keys(values).length) return;
  const made = landing(layer, values, fresh);
  fresh = freshId("s");
  if (made.span) {
    chooseSpan({ layer: layer.id, key: made.span });
    clock.setRange(null);
  }
  void activeShot()?.edit(layer.id, made.label, made.changes);
}

export const editLayer = (layer: LayerDoc, label: string, changes: Change[]) =>
  void activeShot()?.edit(layer.id, label, changes);
/** The change that gives a path a value. */
export const put = (path: string, value: unknown): Change[] => [{ path, value }];
