// Where each track of the deck lies: the first stays on top, lanes of a height of their own follow as far as they have room and
// scroll beyond it, what takes the rest lies below. Heights are the animator's: lanes are pulled taller by their lower edges, and the
// boundary below them says how much all of them have. Pure.
import type { Band, Track } from "./track";

/** lanes: pixels for all lanes together, null for as many as they need, within what leaves the rest its room; tall: kind of a lane ->
 * how many times its own height. */
export type Sizes = { lanes: number | null; tall: Record<string, number> };
export const USUAL: Sizes = { lanes: null, tall: {} };

/** The strip of the lanes that scroll. need: pixels that they would fill; boundary: whether something lies below it to be parted from. */
export type Lanes = { top: number; bottom: number; need: number; scroll: number; boundary: boolean };
export type Layout = { bands: Band[]; lanes: Lanes };
/** What a press takes hold of between tracks. */
export type Grip = { kind: "boundary" } | { kind: "edge"; of: string; own: number } | { kind: "scroll" };

export const GRIP = 6; // pixels of the boundary
const NEAR = 3; // pixels about a lower edge
const BAR = 7; // pixels of the scroll bar
const SHARE = 0.62; // of the room that lanes take by themselves at most
const [LEAST_LANES, LEAST_REST] = [24, 48];
const [SHORT, TALL] = [0.8, 6]; // times its own height that a lane can have

const clamped = (value: number, low: number, high: number) => Math.min(Math.max(value, low), Math.max(high, low));
/** Lanes of a kind are as tall as each other: what stands before the first space of their name. */
export const kindOf = (track: Pick<Track, "id">): string => track.id.split(" ")[0]!;
const own = (track: Track) => (track.height === "rest" ? 0 : track.height);
const tallOf = (track: Track, sizes: Sizes) =>
  own(track) * (track.grows ? clamped(sizes.tall[kindOf(track)] ?? 1, SHORT, TALL) : 1);

/** Where the tracks lie in a deck of a height; scroll: pixels by which the lanes are moved up. */
export function arranged(tracks: Track[], height: number, sizes: Sizes = USUAL, scroll = 0): Layout {
  const rest = tracks.findIndex((t) => t.height === "rest");
  const stop = rest < 0 ? tracks.length : rest;
  const head = tracks.length ? own(tracks[0]!) : 0;
  const need = tracks.slice(1, stop).reduce((sum, t) => sum + tallOf(t, sizes), 0);
  const fixed = tracks.slice(stop).reduce((sum, t) => sum + own(t), 0);
  const boundary = rest >= 0 && need > 0;
  const room = Math.max(height - head - fixed - (boundary ? GRIP : 0), 0);
  const most = boundary ? Math.max(room - LEAST_REST, LEAST_LANES) : room;
  const wanted = sizes.lanes ?? (boundary ? Math.max(room * SHARE, LEAST_LANES) : room);
  const shown = Math.min(need, clamped(wanted, LEAST_LANES, most), room);
  const moved = clamped(scroll, 0, need - shown);
  const lanes: Lanes = { top: head, bottom: head + shown, need, scroll: moved, boundary };
  const seen = { top: lanes.top, bottom: lanes.bottom };
  const rests = tracks.slice(stop).filter((t) => t.height === "rest").length;
  const each = Math.max(room - shown, 0) / Math.max(rests, 1);
  const bands: Band[] = [];
  let top = 0;
  tracks.forEach((track, n) => {
    if (n === 1) top = head - moved;
    if (n === stop) top = lanes.bottom + (boundary ? GRIP : 0);
    const band = {
      top,
      height: n === 0 ? head : n < stop ? tallOf(track, sizes) : track.height === "rest" ? each : own(track),
    };
    bands.push(n > 0 && n < stop ? { ...band, seen } : band);
    top += band.height;
  });
  return { bands, lanes };
}

/** The number of the track at a height that can be seen there, -1 for none. */
export const trackAt = (bands: Band[], y: number): number =>
  bands.findIndex(
    (b) => y >= Math.max(b.top, b.seen?.top ?? 0) && y < Math.min(b.top + b.height, b.seen?.bottom ?? Infinity),
  );

/** What a press at a place takes hold of that is no track's; null for none. */
export function gripAt(tracks: Track[], { bands, lanes }: Layout, width: number, x: number, y: number): Grip | null {
  if (lanes.boundary && y >= lanes.bottom && y < lanes.bottom + GRIP) return { kind: "boundary" };
  if (y < lanes.top || y >= lanes.bottom) return null;
  if (lanes.need > lanes.bottom - lanes.top + 0.5 && x >= width - BAR) return { kind: "scroll" };
  const found = bands.findIndex((b, n) => !!b.seen && tracks[n]!.grows && Math.abs(b.top + b.height - y) <= NEAR);
  return found < 0 ? null : { kind: "edge", of: kindOf(tracks[found]!), own: own(tracks[found]!) };
}

/** The sizes after a grip was dragged down by pixels; before: those, and the layout, at the press. */
export function pulled(grip: Grip, before: Sizes, { lanes }: Layout, by: number): Sizes {
  if (grip.kind === "boundary") return { ...before, lanes: Math.max(lanes.bottom - lanes.top + by, LEAST_LANES) };
  if (grip.kind === "scroll") return before;
  const was = clamped(before.tall[grip.of] ?? 1, SHORT, TALL);
  return { ...before, tall: { ...before.tall, [grip.of]: clamped(was + by / grip.own, SHORT, TALL) } };
}

/** The scroll at which a part of a lane (pixels of its band) is in sight, moved no further than it must be. */
export function scrolledTo({ bands, lanes }: Layout, track: number, from: number, to: number): number {
  const band = bands[track];
  if (!band?.seen) return lanes.scroll;
  const [top, bottom] = [band.top + from, band.top + to];
  if (bottom > lanes.bottom) return lanes.scroll + bottom - lanes.bottom;
  return top < lanes.top ? lanes.scroll + top - lanes.top : lanes.scroll;
}

/** The bar that says which part of the lanes is in sight: top and height in pixels; null where all of them are. */
export function scrollBar({ lanes }: Layout): { top: number; height: number } | null {
  const shown = lanes.bottom - lanes.top;
  if (lanes.need <= shown + 0.5) return null;
  return { top: lanes.top + (lanes.scroll / lanes.need) * shown, height: (shown / lanes.need) * shown };
}
