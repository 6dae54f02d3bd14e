// Layers as rows, the top one first: name, how much of it counts over time, and its spans with their leads.
import { frameToX, xToFrame, type TimeAxis } from "../timeAxis";
import type { Band, Gesture, Press, Stage, Track } from "../track";

export type LayerSpan = {
  key: string;
  first: number;
  last: number;
  leadIn: number;
  leadOut: number;
  strength: number;
  colour: string;
  chosen: boolean;
};
/** marks: frames with keys, in order; weight: of the layer at a frame, 0..1.5; off: it does not count. */
export type LayerRow = {
  key: string;
  name: string;
  letters: string;
  open: boolean;
  off: boolean;
  locked: boolean;
  spans: LayerSpan[];
  marks: number[];
  makers: string;
  weight: (frame: number) => number;
  /** Whether the weight is the same everywhere. */
  steady: boolean;
};
export type Edge = "move" | "first" | "last" | "leadIn" | "leadOut";
export type SpanDrag = { layer: string; key: string; edge: Edge; by: number };
export type Layers = {
  rows: LayerRow[];
  drag: () => SpanDrag | null;
  onOpen: (layer: string) => void;
  onPress: (layer: string, span: string) => void;
  onDrag: (drag: SpanDrag) => void;
  onDrop: (drag: SpanDrag) => void;
};
const NAME = 12;
const BAR = 12;
export const ROW = NAME + BAR + 1;
const MOST = 1.5;
const CLOSE = 2.5; // pixels: marks nearer than that to the one before are one mark

export function layerTrack(of: Layers): Track {
  const rowOf = ({ height }: Band) => height / Math.max(of.rows.length, 1);
  const at = (band: Band, y: number) => of.rows[Math.floor((y - band.top) / rowOf(band))] ?? null;
  return {
    id: "layers",
    height: of.rows.length * ROW,
    grows: true,
    draw: (stage, band) => {
      const drag = of.drag();
      const tall = rowOf(band);
      of.rows.forEach((row, i) => {
        const top = band.top + i * tall;
        const hidden = band.seen && (top + tall < band.seen.top || top > band.seen.bottom);
        if (!hidden) drawRow(stage, row, { top, height: tall }, drag?.layer === row.key ? drag : null);
      });
      stage.context.globalAlpha = 1;
    },
    press: (stage, band, point) => {
      const row = at(band, point.y);
      if (!row) return null;
      const span = row.locked ? null : spanAt(stage.axis, row.spans, point.x);
      if (!span) {
        of.onOpen(row.key);
        return null;
      }
      of.onPress(row.key, span.key);
      return holding(stage, of, row.key, span, point);
    },
    say: (stage, band, { x, y }) => {
      const row = at(band, y);
      const span = row && spanAt(stage.axis, row.spans, x);
      if (!span) return null;
      const [first, last, leadIn, leadOut] = [span.first, span.last, span.leadIn, span.leadOut].map(Math.round);
      return `span ${first} to ${last}, leads ${leadIn} and ${leadOut}, strength ${Math.round(span.strength * 100)} %`;
    },
  };
}

/** The span whose leads cover a place; the shortest of several. Pure. */
export function spanAt(axis: TimeAxis, spans: LayerSpan[], x: number): LayerSpan | null {
  const frame = xToFrame(axis, x);
  const near = xToFrame(axis, 4) - xToFrame(axis, 0);
  const under = spans.filter((s) => frame >= s.first - s.leadIn - near && frame <= s.last + s.leadOut + near);
  return under.sort((a, b) => a.last - a.first - (b.last - b.first))[0] ?? null;
}

/** What of a span is taken hold of at a frame, within `near` frames. Pure. */
export function edgeAt(span: LayerSpan, frame: number, near: number): Edge {
  const places: [Edge, number][] = [
    ["first", span.first],
    ["last", span.last],
    ["leadIn", span.first - span.leadIn],
    ["leadOut", span.last + span.leadOut],
  ];
  const found = places.map(([edge, at]) => [edge, Math.abs(frame - at)] as const).sort((a, b) => a[1] - b[1])[0]!;
  return found[1] <= near ? found[0] : "move";
}

/** The span as a drag makes it; ends never pass each other and leads never become less than nothing. Pure. */
export function spanDragged<S extends Pick<LayerSpan, "first" | "last" | "leadIn" | "leadOut">>(
  span: S,
  edge: Edge,
  by: number,
): S {
  if (edge === "move") return { ...span, first: span.first + by, last: span.last + by };
  if (edge === "first") return { ...span, first: Math.min(span.first + by, span.last) };
  if (edge === "last") return { ...span, last: Math.max(span.last + by, span.first) };
  if (edge === "leadIn") return { ...span, leadIn: Math.max(span.leadIn - by, 0) };
  return { ...span, leadOut: Math.max(span.leadOut + by, 0) };
}

function holding(stage: Stage, of: Layers, layer: string, span: LayerSpan, begun: Press): Gesture {
  const perPixel = (stage.axis.to - stage.axis.from) / stage.axis.width;
  const edge = edgeAt(span, xToFrame(stage.axis, begun.x), 5 * perPixel);
  const made = (p: Press): SpanDrag => ({ layer, key: span.key, edge, by: Math.round((p.x - begun.x) * perPixel) });
  let moved = false;
  return {
    move: (p) => {
      moved ||= Math.abs(p.x - begun.x) > 2;
      if (moved) of.onDrag(made(p));
    },
    release: (p) => {
      if (moved) of.onDrop(made(p));
    },
  };
}

function drawRow(stage: Stage, row: LayerRow, { top, height }: Band, drag: SpanDrag | null) {
  const { context: c, axis, palette, width } = stage;
  const bar = { top: top + NAME, height: height - NAME - 1 };
  c.setLineDash([]);
  c.globalAlpha = 1;
  c.fillStyle = row.open ? palette.lane : palette.ground;
  c.fillRect(0, top, width, height - 1);
  c.fillStyle = row.open ? palette.accent : row.off ? palette.dim : palette.text;
  c.globalAlpha = row.off ? 0.6 : 1;
  const words = [row.name, row.letters, row.makers, row.off ? "off" : "", row.locked ? "locked" : ""].filter(Boolean);
  c.fillText(words.join("   "), 6, top + NAME / 2 + 1);
  c.globalAlpha = row.off ? 0.3 : 0.9;
  for (const span of row.spans)
    drawSpan(stage, drag?.key === span.key ? spanDragged(span, drag.edge, drag.by) : span, bar);
  c.fillStyle = palette.paper;
  c.beginPath();
  const middle = bar.top + bar.height / 2;
  let drawn = -Infinity;
  for (const mark of row.marks) {
    const x = frameToX(axis, mark);
    if (x < -4 || x > width + 4 || Math.abs(x - drawn) < CLOSE) continue;
    drawn = x;
    c.moveTo(x, middle - 4);
    c.lineTo(x + 3.5, middle);
    c.lineTo(x, middle + 4);
    c.lineTo(x - 3.5, middle);
  }
  c.fill();
  c.globalAlpha = row.off ? 0.2 : 0.55;
  c.strokeStyle = palette.text;
  c.lineWidth = 1;
  c.beginPath();
  const step = row.steady ? width : 4;
  for (let x = 0; x <= width; x += step) {
    const y = bar.top + bar.height - 1 - (row.weight(xToFrame(axis, x)) / MOST) * (bar.height - 2);
    if (x) c.lineTo(x, y);
    else c.moveTo(x, y);
  }
  c.stroke();
}

function drawSpan({ context: c, axis, palette, width }: Stage, span: LayerSpan, bar: Band) {
  const [a, b, d, e] = [span.first - span.leadIn - 1, span.first, span.last, span.last + span.leadOut + 1].map((f) =>
    frameToX(axis, f),
  );
  if (a! > width || e! < 0) return;
  const low = bar.top + bar.height - 1;
  const high = (bar.height - 1) * Math.min(span.strength, 1);
  c.fillStyle = span.colour;
  c.beginPath();
  c.moveTo(a!, low);
  c.lineTo(b!, low - high);
  c.lineTo(Math.max(d!, b! + 2), low - high);
  c.lineTo(Math.max(e!, b! + 3), low);
  c.closePath();
  c.fill();
  if (!span.chosen) return;
  c.strokeStyle = palette.paper;
  c.lineWidth = 1.5;
  c.stroke();
}
