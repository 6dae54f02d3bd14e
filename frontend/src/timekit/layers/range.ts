import { frameToX } from "../timeAxis";
import { STRIPS, type DeckView } from "../view";

/** Shades what lies outside the range. */
export function drawRange(view: DeckView) {
  if (!view.range) return;
  const { context: c, axis, width, height, palette } = view;
  const from = frameToX(axis, view.range.from);
  const to = frameToX(axis, view.range.to);
  c.globalAlpha = 0.55;
  c.fillStyle = palette.ground;
  c.fillRect(0, STRIPS.ruler, Math.max(from, 0), height);
  c.fillRect(to, STRIPS.ruler, Math.max(width - to, 0), height);
  c.globalAlpha = 1;
  c.fillStyle = palette.paper;
  c.fillRect(from - 1, 2, 3, STRIPS.ruler - 4);
  c.fillRect(to - 1, 2, 3, STRIPS.ruler - 4);
  c.fillRect(from, 2, to - from, 2);
}
