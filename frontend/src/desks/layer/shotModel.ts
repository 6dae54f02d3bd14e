// What the Layer desk shows of a shot, and which changes its gestures make. Pure.
import { pathOf } from "../../api/changes";
import type { Change, LayerDoc, Placement } from "../../api/client";
import { exact, framesOf, product, quotient, secondsOf, sum, toNumber } from "../../shared/seconds";
import { colourOf, fullScale, REGIONS } from "../../shared/regions";
import type { Block, Hold } from "../../timekit/tracks/blocks";
import { spanDragged, type LayerRow, type SpanDrag } from "../../timekit/tracks/layers";
import { spanChannels } from "../../workspace/rig";
import type { ShotState } from "../../workspace/state";
import { weightOverTime } from "../../drawer/weights";

export type Span = LayerDoc["body"]["spans"][string];

export const lengthOf = (p: Stretch): string => quotient(product(sum(p.last, `-${p.first}`), p.repeats), p.speed);

/** What of its take a clip shows, in words. */
export const SHOWN: Record<Placement["shows"], string> = { face: "Face", body: "Body", both: "Face and body" };

/** Whether any clip of a role shows a body. Pure. */
export const hasBody = (role: { placements: Record<string, Placement> }): boolean =>
  Object.values(role.placements).some((p) => p.shows !== "face");

/** The body that one of a role's placements can go on from: the last one before it on its lane. Pure. */
export function goesOnFrom(placements: Record<string, Placement>, name: string): string | null {
  const own = placements[name]!;
  const before = Object.entries(placements).filter(
    ([key, p]) =>
      key !== name && p.shows !== "face" && p.lane === own.lane && toNumber(p.start) < toNumber(own.start) && !p.mute,
  );
  before.sort(([, a], [, b]) => toNumber(b.start) - toNumber(a.start));
  return before[0]?.[0] ?? null;
}

/** The changes that leave a clip the face and put its body, silent, on the first lane with room. Pure. */
export function takenApart(role: string, placements: Record<string, Placement>, name: string, key: string): Change[] {
  const own = placements[name]!;
  const [from, to] = [toNumber(own.start), toNumber(sum(own.start, lengthOf(own)))];
  const taken = (lane: number) =>
    Object.values(placements).some(
      (p) => p.lane === lane && toNumber(p.start) < to && toNumber(sum(p.start, lengthOf(p))) > from,
    );
  let lane = own.lane;
  while (taken(lane)) lane += 1;
  return [
    { path: `${placementPath(role, name)}/shows`, value: "face" },
    { path: placementPath(role, key), value: { ...own, shows: "body", sound: false, lane } },
  ];
}

/** The placements of a role as blocks. */
export function blocksOf(shot: ShotState, role: string, chosen: string | null): Block[] {
  const { rate, roles } = shot.opened.shot.body;
  return Object.entries(roles[role]?.placements ?? {}).map(([key, p]) => {
    const clip = shot.opened.clips.find((c) => c.id === p.clip);
    const from = framesOf(p.start, rate);
    const frames = framesOf(lengthOf(p), rate);
    const one = frames / toNumber(p.repeats);
    const changed = p.seen && shot.takes[p.clip] && p.seen !== shot.takes[p.clip];
    return {
      key,
      lane: p.lane,
      from,
      to: from + frames,
      label: clip?.name ?? "a clip that is not there any more",
      note: [clip?.body && SHOWN[p.shows].toLowerCase(), changed && !clip?.frozen && "take changed"]
        .filter(Boolean)
        .join(", "),
      chosen: key === chosen,
      mute: p.mute,
      fadeIn: framesOf(p.fadeIn, rate),
      fadeOut: framesOf(p.fadeOut, rate),
      passes: Array.from(
        { length: Math.max(Math.ceil(toNumber(p.repeats) - 1e-6) - 1, 0) },
        (_, i) => from + one * (i + 1),
      ),
    };
  });
}

type Sound = ShotState["opened"]["shot"]["body"]["sounds"][string];
/** What of a placement says where it lies and what of its source it shows. */
export type Stretch = Pick<Placement, "start" | "first" | "last" | "speed" | "repeats">;
export const stretchOf = (sound: Sound): Stretch => ({ ...sound, repeats: "1" });

/** The shot's own sounds as blocks. */
export function soundBlocks(shot: ShotState, chosen: string | null): Block[] {
  const { rate, sounds } = shot.opened.shot.body;
  return Object.entries(sounds).map(([key, s]) => {
    const from = framesOf(s.start, rate);
    return {
      key,
      lane: 0,
      from,
      to: from + framesOf(lengthOf(stretchOf(s)), rate),
      label: s.name || "sound",
      note: s.gain === 1 ? "" : `× ${s.gain}`,
      chosen: key === chosen,
      mute: s.mute,
      fadeIn: framesOf(s.fadeIn, rate),
      fadeOut: framesOf(s.fadeOut, rate),
      passes: [],
    };
  });
}

export const lanesOf = (blocks: Block[]): number => Math.max(...blocks.map((b) => b.lane + 1), 1);

/** What dragging a placement changes: its start, or the end of its stretch that was taken hold of. `most`: seconds that its take has. */
export function placementDragged(
  base: string,
  placement: Stretch,
  hold: Hold,
  by: number,
  rate: string,
  most: number,
): Change[] {
  const seconds = secondsOf(by, rate);
  if (hold === "move") return [{ path: `${base}/start`, value: sum(placement.start, seconds) }];
  const source = product(seconds, placement.speed);
  if (hold === "begin") {
    // No further than to the take's beginning, and never past the end.
    const room = [`-${placement.first}`, sum(sum(placement.last, `-${placement.first}`), `-${secondsOf(1, rate)}`)];
    const held =
      toNumber(source) < toNumber(room[0]!) ? room[0]! : toNumber(source) > toNumber(room[1]!) ? room[1]! : source;
    return [
      { path: `${base}/first`, value: sum(placement.first, held) },
      { path: `${base}/start`, value: sum(placement.start, quotient(held, placement.speed)) },
    ];
  }
  if (placement.repeats !== "1") {
    const one = quotient(sum(placement.last, `-${placement.first}`), placement.speed);
    const passes = toNumber(sum(placement.repeats, quotient(seconds, one)));
    return [{ path: `${base}/repeats`, value: exact(Math.min(Math.max(passes, 0.1), 100)) }];
  }
  const least = sum(placement.first, secondsOf(1, rate));
  const wished = sum(placement.last, source);
  const low = toNumber(wished) < toNumber(least) ? least : wished;
  return [{ path: `${base}/last`, value: most && toNumber(low) > most ? exact(most) : low }];
}

/** The content moves inside the edges, by frames of the shot; as far as the take goes. */
export function slipped(base: string, placement: Stretch, by: number, rate: string, most: number): Change[] {
  let off = product(secondsOf(by, rate), placement.speed);
  if (toNumber(off) < -toNumber(placement.first)) off = `-${placement.first}`;
  if (most && toNumber(placement.last) + toNumber(off) > most) off = exact(most - toNumber(placement.last));
  return [
    { path: `${base}/first`, value: sum(placement.first, off) },
    { path: `${base}/last`, value: sum(placement.last, off) },
  ];
}

/** Of a clip of a role; of one of the shot's own sounds where the role is "". */
export const placementPath = (role: string, placement: string) =>
  role ? pathOf("roles", role, "placements", placement) : pathOf("sounds", placement);

/** Layers as rows of the deck, in the order given. */
export function rowsOf(
  layers: LayerDoc[],
  open: string | null,
  span: string | null,
  regionOf: Record<string, string>,
  light: boolean,
): LayerRow[] {
  const solo = layers.some((l) => l.body.solo);
  return layers.map(({ id, body }) => ({
    key: id,
    name: body.name,
    letters: body.character ? "touch-up" : lettersOf(body.regions),
    open: id === open,
    off: body.mute || (solo && !body.solo),
    locked: body.locked,
    makers: Object.values(body.makers)
      .filter((m) => m.on)
      .map((m) => m.maker)
      .join(", "),
    spans: Object.entries(body.spans).map(([key, s]) => ({
      key,
      first: s.first,
      last: s.last,
      leadIn: s.leadIn,
      leadOut: s.leadOut,
      strength: s.strength,
      colour: colourOf(regionOf[spanChannels(s)[0] ?? ""] ?? "lips", light),
      chosen: key === span,
    })),
    marks: marksOf(body.keys),
    weight: weightOverTime(body.weight),
    steady: !Object.keys(body.weight.keys).length,
  }));
}

const WIDE = 1.5; // times the full range that angles and slides go on a slider

/** Lowest and highest value of a channel on a slider of a layer; a target goes as far as its sheet lets it. Pure. */
export function limitsOf(
  does: LayerDoc["body"]["does"],
  channel: string,
  rig: { low: number; high: number } | null,
): [number, number] {
  if (does === "scale") return [0, 2];
  const full = fullScale(channel);
  if (full !== 1) return [-WIDE * full, WIDE * full];
  if (does === "add") return [-1, 1];
  return rig ? [rig.low, rig.high] : [0, 1];
}

/** The letters of the regions that a layer reaches, "" for all. */
export const lettersOf = (regions: Record<string, boolean>): string =>
  REGIONS.filter((r) => regions[r.name])
    .map((r) => r.letter)
    .join("");

const marked = new WeakMap<object, number[]>();

/** Frames at which a layer has keys, in order; worked out once for a state of it. */
function marksOf(keys: LayerDoc["body"]["keys"]): number[] {
  let marks = marked.get(keys);
  if (!marks) {
    const frames = Object.values(keys).flatMap((table) => Object.values(table).map((row) => row[0]));
    marked.set(keys, (marks = [...new Set(frames)].sort((a, b) => a - b)));
  }
  return marks;
}

/** The rank at which a layer comes to lie right above another of a list from the top down; null where it does already. Pure. */
export function rankAbove(layers: LayerDoc[], moved: string, onto: string): number | null {
  if (moved === onto) return null;
  const others = layers.filter((l) => l.id !== moved);
  const at = others.findIndex((l) => l.id === onto);
  // Touch-up layers stay above the others.
  if (!!others[at]?.body.character !== !!layers.find((l) => l.id === moved)?.body.character) return null;
  const [above, below] = [others[at - 1]?.body.rank, others[at]!.body.rank];
  if (layers.findIndex((l) => l.id === moved) === at && layers[at + 1]?.id === onto) return null;
  return above === undefined ? below + 1 : (above + below) / 2;
}

/** A chosen span again, beginning at a frame. Pure. */
export const spanAgain = (span: Span, frame: number): Span => ({
  ...span,
  first: frame,
  last: frame + span.last - span.first,
  origin: span.origin + frame - span.first,
});

/** What dragging a span changes in its layer. */
export function spanChanges(span: Span, { key, edge, by }: SpanDrag): Change[] {
  const origin = span.origin + (edge === "move" ? by : 0); // a curve goes along with its span, and not with one edge of it
  const next = { ...spanDragged(span, edge, by), origin };
  const fields = ["first", "last", "leadIn", "leadOut", "origin"] as const;
  return fields.filter((f) => next[f] !== span[f]).map((f) => ({ path: pathOf("spans", key, f), value: next[f] }));
}

/** Layers in their order, those of one folder together as long as they lie beside each other. */
export function inFolders(layers: LayerDoc[]): { folder: string; own: LayerDoc[] }[] {
  const out: { folder: string; own: LayerDoc[] }[] = [];
  for (const layer of layers) {
    const last = out[out.length - 1];
    if (last && layer.body.folder && last.folder === layer.body.folder) last.own.push(layer);
    else out.push({ folder: layer.body.folder, own: [layer] });
  }
  return out;
}
