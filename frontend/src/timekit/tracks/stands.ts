// When feet stand and hands touch: a row each, spans with edges that are dragged; a double click adds one where there is none.
import { frameToX, xToFrame, type TimeAxis } from "../timeAxis";
import type { Track } from "../track";

/** word: what is written in the bar, for rows whose spans differ in more than when they are. */
export type StandSpan = { key: string; row: number; first: number; last: number; byHand: boolean; word?: string };
export type StandEdge = "first" | "last";
/** does: what it does in a span; held: whether it is held there on the character, or it is only said when it did so. */
export type StandRow = { word: string; does: string; held: boolean };
export type StandRows = {
  id?: string;
  rows: StandRow[];
  spans: StandSpan[];
  chosen: string;
  onChoose: (key: string) => void;
  onDrag: (key: string, edge: StandEdge, frame: number) => void;
  onDrop: () => void;
  onAdd: (row: number, frame: number) => void;
};
const HEIGHT = 9;
const ROW = HEIGHT + 4;
const WORD = 52; // pixels that a word takes
const NEAR = 5; // pixels from an edge within which it is meant

export function standTrack(of: StandRows): Track {
  return {
    id: of.id ?? "stands",
    height: of.rows.length * ROW + 3,
    draw: ({ context: c, axis, palette, width }, { top }) => {
      c.lineWidth = 1;
      c.setLineDash([]);
      for (const span of of.spans) {
        const x = frameToX(axis, span.first);
        const wide = Math.max(3, frameToX(axis, span.last + 1) - x);
        if (x > width || x + wide < 0) continue;
        const y = top + span.row * ROW + 1;
        const held = of.rows[span.row]!.held;
        c.globalAlpha = held ? 0.85 : 0.55;
        c.fillStyle = c.strokeStyle = palette.paper;
        if (held) c.fillRect(x, y, wide, HEIGHT);
        else c.strokeRect(x + 0.5, y + 0.5, wide - 1, HEIGHT - 1);
        c.globalAlpha = 1;
        if (span.word && wide > WORD) writeIn(c, span.word, x, wide, y, held ? palette.ground : palette.paper);
        c.fillStyle = palette.accent;
        if (span.byHand) c.fillRect(x, y + HEIGHT, wide, 2);
        if (span.key !== of.chosen) continue;
        c.strokeStyle = palette.accent;
        c.strokeRect(x - 1.5, y - 1.5, wide + 3, HEIGHT + 3);
      }
      c.globalAlpha = 1;
      c.textBaseline = "top";
      of.rows.forEach(({ word, held }, row) => {
        c.fillStyle = palette.dim;
        c.fillText(word, 4, top + row * ROW);
        if (!held) return;
        // On a bar the word is dark, even where it goes on beyond its end.
        for (const span of of.spans) {
          const [x, end] = [frameToX(axis, span.first), frameToX(axis, span.last + 1)];
          if (span.row !== row || x > WORD || end < 4) continue;
          c.save();
          c.beginPath();
          c.rect(x, top + row * ROW, end - x, ROW);
          c.clip();
          c.fillStyle = palette.ground;
          c.fillText(word, 4, top + row * ROW);
          c.restore();
        }
      });
    },
    press: ({ axis }, { top }, { x, y }) => {
      const found = standAt(axis, of.spans, x, y - top);
      if (!found) return null;
      of.onChoose(found.span.key);
      const { edge, span } = found;
      if (!edge) return "taken";
      const from = xToFrame(axis, x) - span[edge];
      let moved = false;
      return {
        move: (at) => {
          moved = true;
          of.onDrag(span.key, edge, Math.round(xToFrame(axis, at.x) - from));
        },
        release: () => moved && of.onDrop(),
      };
    },
    twice: ({ axis }, { top }, { x, y }) => {
      const row = Math.floor((y - top) / ROW);
      if (row >= 0 && row < of.rows.length && !standAt(axis, of.spans, x, y - top))
        of.onAdd(row, Math.round(xToFrame(axis, x)));
    },
    say: ({ axis }, { top }, { x, y }) => {
      const row = Math.floor((y - top) / ROW);
      const found = standAt(axis, of.spans, x, y - top);
      const own = of.rows[row];
      if (!own) return null;
      if (!found) return `${own.word}: a double click sets that it ${own.does} here`;
      if (found.edge) return `${own.word}: drag the edge`;
      const [first, last] = [found.span.first, found.span.last].map(Math.round);
      const who = found.span.word ? ` by ${found.span.word}` : "";
      return `${own.word} ${own.does}${who}, frames ${first} to ${last}`;
    },
  };
}

/** Writes a word in the middle of what is seen of a bar. */
function writeIn(c: CanvasRenderingContext2D, word: string, x: number, wide: number, y: number, colour: string) {
  const from = Math.max(x, WORD);
  c.save();
  c.beginPath();
  c.rect(from, y, x + wide - from, HEIGHT);
  c.clip();
  c.fillStyle = colour;
  c.textBaseline = "top";
  c.fillText(word, from + 8, y);
  c.restore();
}

/** The span at a place, y from the top of the track, and the edge that is meant, null for its middle. Pure. */
export function standAt(
  axis: TimeAxis,
  spans: StandSpan[],
  x: number,
  y: number,
): { span: StandSpan; edge: StandEdge | null } | null {
  const row = Math.floor(y / ROW);
  let best: { span: StandSpan; edge: StandEdge | null } | null = null;
  let least = NEAR;
  for (const span of spans) {
    if (span.row !== row) continue;
    const [from, to] = [frameToX(axis, span.first), frameToX(axis, span.last + 1)];
    const near = Math.min(NEAR, (to - from) / 3);
    for (const [edge, at] of [
      ["first", from],
      ["last", to],
    ] as const) {
      // prettier-ignore
      const off = Math.abs(x - at);
      if (off <= Math.max(near, x < from || x > to ? NEAR : near) && off < least) [best, least] = [{ span, edge }, off];
    }
    if (!best && x >= from && x <= to) best = { span, edge: null };
  }
  return best;
}
