import { frameToX } from "../timeAxis";
import type { DeckView } from "../view";

export const LANE = 38;

/** A lane of its own for the difference to what is compared with: above the middle is more than there. */
export function drawLane(view: DeckView) {
  if (!view.lane || !view.comparing || !view.curves.length) return;
  const { context: c, axis, width, height, palette } = view;
  const top = height - LANE;
  c.fillStyle = palette.ground;
  c.fillRect(0, top, width, LANE);
  c.strokeStyle = palette.faint;
  c.lineWidth = 1;
  c.setLineDash([]);
  c.beginPath();
  c.moveTo(0, top + 0.5);
  c.lineTo(width, top + 0.5);
  c.moveTo(0, top + LANE / 2);
  c.lineTo(width, top + LANE / 2);
  c.stroke();
  const first = Math.max(0, Math.floor(axis.from));
  let most = 0.02;
  for (const curve of view.curves) {
    const last = Math.min(curve.tidied.frames - 1, Math.ceil(axis.to));
    for (let f = first; f <= last; f++) {
      const by = Math.abs(curve.tidied.base[f]! - curve.raw.base[f]!) / curve.scale;
      if (by > most) most = by;
    }
  }
  for (const curve of view.curves) {
    const last = Math.min(curve.tidied.frames - 1, Math.ceil(axis.to));
    const stride = Math.max(1, Math.floor((last - first) / Math.max(width, 1)));
    c.strokeStyle = curve.colour;
    c.lineWidth = 1.3;
    c.setLineDash(curve.dashed ? [6, 3] : []);
    c.beginPath();
    let down = false;
    for (let f = first; f <= last; f += stride) {
      const by = (curve.tidied.base[f]! - curve.raw.base[f]!) / curve.scale;
      if (by !== by) {
        down = false;
        continue;
      }
      const y = top + LANE / 2 - (by / most) * (LANE / 2 - 3);
      if (down) c.lineTo(frameToX(axis, f), y);
      else c.moveTo(frameToX(axis, f), y);
      down = true;
    }
    c.stroke();
  }
  c.setLineDash([]);
  c.fillStyle = palette.dim;
  c.fillText(`difference ±${most.toFixed(2)}`, 6, top + 9);
}
