import { frameToX } from "../timeAxis";
import { STRIPS, type DeckView } from "../view";

const HEIGHT = { gap: 10, dropped: 8, doubled: 5, uneven: 3 } as const;

/** Where the device's frames were wrong: gaps tallest, then lost, doubled and uneven frames. */
export function drawSnags(view: DeckView) {
  const { context: c, axis, palette, width } = view;
  for (const mark of view.marks) {
    const x = frameToX(axis, mark.from);
    const wide = Math.max(mark.kind === "uneven" ? 1 : 2, frameToX(axis, mark.to) - x);
    if (x > width || x + wide < 0) continue;
    const height = HEIGHT[mark.kind];
    c.fillStyle = mark.kind === "gap" ? palette.accent : mark.kind === "uneven" ? palette.faint : palette.text;
    c.globalAlpha = mark.kind === "uneven" ? 0.6 : 0.95;
    c.fillRect(x, STRIPS.ruler + STRIPS.snags - height, wide, height);
  }
  c.globalAlpha = 1;
}
