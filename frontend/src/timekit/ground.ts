// What lies under and over all tracks: the ground with lines of time, what is outside the range, and the playhead.
import { frameToX, markStep } from "./timeAxis";
import { GRIP, scrollBar, type Layout } from "./layout";
import type { Stage, Track } from "./track";

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

/** All tracks where they lie: lanes within their strip, with the bar that scrolls them and the boundary below. */
export function drawTracks(stage: Stage, tracks: Track[], layout: Layout) {
  const { context: c, width, palette } = stage;
  const { bands, lanes } = layout;
  c.save();
  c.beginPath();
  c.rect(0, lanes.top, width, lanes.bottom - lanes.top);
  c.clip();
  tracks.forEach((track, i) => {
    const band = bands[i]!;
    if (band.seen && band.top < lanes.bottom && band.top + band.height > lanes.top) track.draw(stage, band);
  });
  c.restore();
  tracks.forEach((track, i) => {
    if (!bands[i]!.seen) track.draw(stage, bands[i]!);
  });
  const bar = scrollBar(layout);
  c.globalAlpha = 0.5;
  c.fillStyle = palette.dim;
  if (bar) c.fillRect(width - 5, bar.top + 1, 4, Math.max(bar.height - 2, 8));
  if (lanes.boundary) {
    c.fillRect(0, lanes.bottom + GRIP / 2 - 0.5, width, 1);
    c.fillRect(width / 2 - 14, lanes.bottom + GRIP / 2 - 1.5, 28, 3);
  }
  c.globalAlpha = 1;
}
