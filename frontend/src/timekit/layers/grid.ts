import { frameLabel, frameToX, markStep } from "../timeAxis";
import { valueMarks, valueToY } from "../valueAxis";
import { curvesTop, STRIPS, type DeckView } from "../view";

/** Ruler, time lines and value lines. */
export function drawGrid(view: DeckView) {
  const { context: c, axis, value, width, height, palette } = view;
  c.fillStyle = palette.ground;
  c.fillRect(0, 0, width, height);
  c.fillStyle = palette.lane;
  c.fillRect(0, STRIPS.ruler, width, height - STRIPS.ruler);
  c.font = "11px 'IBM Plex Sans', sans-serif";
  c.textBaseline = "middle";
  const step = markStep(axis, view.rate, view.unit);
  c.strokeStyle = palette.line;
  c.lineWidth = 1;
  for (let frame = Math.max(0, Math.ceil(axis.from / step) * step); frame <= axis.to; frame += step) {
    const x = Math.round(frameToX(axis, frame)) + 0.5;
    c.beginPath();
    c.moveTo(x, STRIPS.ruler - 5);
    c.lineTo(x, height);
    c.stroke();
    c.fillStyle = palette.dim;
    c.fillText(frameLabel(frame, view.rate, view.unit, view.start), x + 4, STRIPS.ruler / 2);
  }
  c.fillStyle = palette.dim;
  for (const mark of valueMarks(value)) {
    const y = Math.round(valueToY(value, mark)) + 0.5;
    if (y < curvesTop || y > height) continue;
    c.strokeStyle = mark === 0 ? palette.faint : palette.line;
    c.beginPath();
    c.moveTo(0, y);
    c.lineTo(width, y);
    c.stroke();
    c.fillText(String(Number(mark.toFixed(3))), 4, y - 7);
  }
}
