import { frameToX } from "../timeAxis";
import type { DeckView } from "../view";

export function drawPlayhead(view: DeckView) {
  const { context: c, height, palette } = view;
  const x = Math.round(frameToX(view.axis, view.frame)) + 0.5;
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
