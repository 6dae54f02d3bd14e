import { frameToX, xToFrame } from "../timeAxis";
import { STRIPS, type DeckView, type SnagMark } from "../view";

const HEIGHT = { gap: 10, dropped: 8, doubled: 5, uneven: 3 } as const;

/** Where the device's frames were wrong and where something looks wrong: the taller, the worse. */
export function drawSnags(view: DeckView) {
  const { context: c, axis, palette, width } = view;
  const bottom = STRIPS.ruler + STRIPS.snags;
  for (const mark of view.marks) {
    const x = frameToX(axis, mark.from);
    const wide = Math.max(mark.kind === "uneven" ? 1 : 2, frameToX(axis, mark.to) - x);
    if (x > width || x + wide < 0) continue;
    const height = HEIGHT[mark.kind];
    c.fillStyle = mark.kind === "gap" ? palette.accent : mark.kind === "uneven" ? palette.faint : palette.text;
    c.globalAlpha = mark.kind === "uneven" ? 0.6 : 0.95;
    c.fillRect(x, bottom - height, wide, height);
  }
  // Long ones first, so that short ones lie on top and can be pressed.
  for (const snag of view.snags) {
    const x = frameToX(axis, snag.from);
    const wide = Math.max(3, frameToX(axis, snag.to + 1) - x);
    if (x > width || x + wide < 0) continue;
    const height = 4 + snag.severity * 6;
    c.fillStyle = snag.colour;
    c.globalAlpha = snag.whole ? 0.35 : 0.95;
    c.fillRect(x, bottom - height, wide, height);
    if (snag.chosen) {
      c.globalAlpha = 1;
      c.strokeStyle = palette.paper;
      c.lineWidth = 1.5;
      c.strokeRect(x - 1.5, STRIPS.ruler - 0.5, wide + 3, STRIPS.snags + 1);
      c.globalAlpha = 0.1;
      c.fillStyle = palette.paper;
      c.fillRect(x, bottom, wide, view.height - bottom);
    }
  }
  c.globalAlpha = 1;
}

/** The snag under a place in the strip: the shortest of those that lie there. */
export function snagAt(view: { axis: DeckView["axis"]; snags: SnagMark[] }, x: number, y: number): SnagMark | null {
  if (y < STRIPS.ruler || y > STRIPS.ruler + STRIPS.snags) return null;
  const reach = (xToFrame(view.axis, 4) - xToFrame(view.axis, 0)) | 0;
  const frame = xToFrame(view.axis, x);
  const under = view.snags.filter((s) => frame >= s.from - 1 - reach && frame <= s.to + 1 + reach);
  return under.sort((a, b) => a.to - a.from - (b.to - b.from))[0] ?? null;
}
