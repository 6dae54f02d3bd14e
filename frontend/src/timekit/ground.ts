// What lies under and over all tracks: the ground with lines of time, what is outside the range, and the playhead.
import { frameToX, markStep } from "./timeAxis";
import type { Stage } from "./track";

/** The ground, with a line at each mark of the ruler; `top`: where the ruler ends. */
export function drawGround({ context: c, axis, width, height, palette, rate, unit }: Stage, top: number) {
  c.fillStyle = palette.ground;
  c.fillRect(0, 0, width, height);
  c.fillStyle = palette.lane;
  c.fillRect(0, top, width, height - top);
  c.strokeStyle = palette.line;
  c.lineWidth = 1;
  c.setLineDash([]);
  const step = markStep(axis, rate, unit);
  for (let frame = Math.max(0, Math.ceil(axis.from / step) * step); frame <= axis.to; frame += step) {
    const x = Math.round(frameToX(axis, frame)) + 0.5;
    c.beginPath();
    c.moveTo(x, top - 5);
    c.lineTo(x, height);
    c.stroke();
  }
}

/** Shades what lies outside the range and marks its ends on the ruler. */
export function drawRange({ context: c, axis, width, height, palette, range }: Stage, top: number) {
  if (!range) return;
  const from = frameToX(axis, range.from);
  const to = frameToX(axis, range.to);
  c.globalAlpha = 0.55;
  c.fillStyle = palette.ground;
  c.fillRect(0, top, Math.max(from, 0), height);
  c.fillRect(to, top, Math.max(width - to, 0), height);
  c.globalAlpha = 1;
  c.fillStyle = palette.paper;
  c.fillRect(from - 1, 2, 3, top - 4);
  c.fillRect(to - 1, 2, 3, top - 4);
  c.fillRect(from, 2, to - from, 2);
}

export function drawPlayhead({ context: c, axis, height, palette, frame }: Stage) {
  const x = Math.round(frameToX(axis, frame)) + 0.5;
  c.strokeStyle = palette.accent;
  c.lineWidth = 1.5;
  c.setLineDash([]);
  c.beginPath();
  c.moveTo(x, 8);
  c.lineTo(x, height);
  c.stroke();
  c.fillStyle = palette.accent;
  c.beginPath();
  c.arc(x, 6, 4.5, 0, Math.PI * 2);
  c.fill();
}
