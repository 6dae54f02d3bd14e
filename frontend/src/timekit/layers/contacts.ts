// Contacts that the cast sheet keeps, as held spans above the curves; where the mesh goes through itself, as marks in the accent.
import type { Crossing, Held } from "../../workspace/tables";
import { frameToX, xToFrame } from "../timeAxis";
import { curvesTop, type DeckView } from "../view";

const TOP = curvesTop - 5;
const HEIGHT = 7;
/** Lids lie below lips, so that both can be pressed. */
const rowOf = (kind: string) => (kind.startsWith("lid") ? HEIGHT + 2 : 0);

export function drawContacts(view: DeckView) {
  const { context: c, axis, palette, width } = view;
  if (!view.held) return;
  for (const span of view.held.kept) {
    const x = frameToX(axis, span.first);
    const wide = Math.max(3, frameToX(axis, span.last + 1) - x);
    if (x > width || x + wide < 0) continue;
    const y = TOP + rowOf(span.kind);
    c.globalAlpha = span.on ? 0.9 : 0.55;
    c.fillStyle = c.strokeStyle = palette.paper;
    c.lineWidth = 1;
    if (span.on) c.fillRect(x, y, wide, HEIGHT);
    else c.strokeRect(x + 0.5, y + 0.5, wide - 1, HEIGHT - 1);
  }
  c.globalAlpha = 1;
  c.fillStyle = palette.accent;
  for (const crossing of view.held.crossings) {
    const x = frameToX(axis, crossing.first);
    const wide = Math.max(2, frameToX(axis, crossing.last + 1) - x);
    if (x <= width && x + wide >= 0) c.fillRect(x, TOP + rowOf(crossing.kind) + HEIGHT, wide, 2);
  }
}

/** The held span under a place. Pure. */
export function heldAt(
  view: { axis: DeckView["axis"]; held: { kept: Held[]; crossings: Crossing[] } | null },
  x: number,
  y: number,
): Held | null {
  if (!view.held || y < TOP - 1 || y > TOP + 2 * HEIGHT + 4) return null;
  const lower = y > TOP + HEIGHT + 1;
  const frame = xToFrame(view.axis, x);
  return (
    view.held.kept.find((k) => k.kind.startsWith("lid") === lower && frame >= k.first - 0.5 && frame <= k.last + 1) ??
    null
  );
}
