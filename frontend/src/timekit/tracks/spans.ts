// Spans in rows, each on or off, with marks under them.
import { frameToX, xToFrame, type TimeAxis } from "../timeAxis";
import type { Track } from "../track";

export type RowSpan = { key: string; row: number; first: number; last: number; on: boolean };
export type RowMark = { row: number; first: number; last: number };
const HEIGHT = 7;
const ROW = HEIGHT + 3;

export function spanTrack(rows: number, spans: RowSpan[], marks: RowMark[], onPress: (key: string) => void): Track {
  return {
    id: "spans",
    height: rows * ROW + 2,
    draw: ({ context: c, axis, palette, width }, { top }) => {
      c.lineWidth = 1;
      c.setLineDash([]);
      for (const span of spans) {
        const x = frameToX(axis, span.first);
        const wide = Math.max(3, frameToX(axis, span.last + 1) - x);
        if (x > width || x + wide < 0) continue;
        const y = top + span.row * ROW;
        c.globalAlpha = span.on ? 0.9 : 0.55;
        c.fillStyle = c.strokeStyle = palette.paper;
        if (span.on) c.fillRect(x, y, wide, HEIGHT);
        else c.strokeRect(x + 0.5, y + 0.5, wide - 1, HEIGHT - 1);
      }
      c.globalAlpha = 1;
      c.fillStyle = palette.accent;
      for (const mark of marks) {
        const x = frameToX(axis, mark.first);
        const wide = Math.max(2, frameToX(axis, mark.last + 1) - x);
        if (x <= width && x + wide >= 0) c.fillRect(x, top + mark.row * ROW + HEIGHT, wide, 2);
      }
    },
    press: ({ axis }, { top }, { x, y }) => {
      const span = spanAt(axis, spans, x, y - top);
      if (span) onPress(span.key);
      return span ? "taken" : null;
    },
  };
}

/** The span at a place, y from the top of the track. Pure. */
export function spanAt(axis: TimeAxis, spans: RowSpan[], x: number, y: number): RowSpan | null {
  const row = Math.floor(y / ROW);
  const frame = xToFrame(axis, x);
  return spans.find((s) => s.row === row && frame >= s.first - 0.5 && frame <= s.last + 1) ?? null;
}
