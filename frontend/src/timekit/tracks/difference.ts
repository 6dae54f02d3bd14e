// How far curves are from what they are compared with: above the middle is more than there.
import { frameToX } from "../timeAxis";
import type { Stage, Track } from "../track";
import type { Curve } from "./curves";

const HEIGHT = 38;

export const differenceTrack = (curves: Curve[]): Track => ({
  id: "difference",
  height: HEIGHT,
  draw: (stage, { top }) => draw(stage, curves, top),
});

function draw({ context: c, axis, width, palette }: Stage, curves: Curve[], top: number) {
  c.fillStyle = palette.ground;
  c.fillRect(0, top, width, HEIGHT);
  c.strokeStyle = palette.faint;
  c.lineWidth = 1;
  c.setLineDash([]);
  c.beginPath();
  c.moveTo(0, top + 0.5);
  c.lineTo(width, top + 0.5);
  c.moveTo(0, top + HEIGHT / 2);
  c.lineTo(width, top + HEIGHT / 2);
  c.stroke();
  const first = Math.max(0, Math.floor(axis.from));
  let most = 0.02;
  for (const curve of curves) {
    const last = Math.min(curve.tidied.frames - 1, Math.ceil(axis.to));
    for (let f = first; f <= last; f++) {
      const by = Math.abs(curve.tidied.base[f]! - curve.raw.base[f]!) / curve.scale;
      if (by > most) most = by;
    }
  }
  for (const curve of curves) {
    const last = Math.min(curve.tidied.frames - 1, Math.ceil(axis.to));
    const stride = Math.max(1, Math.floor((last - first) / Math.max(width, 1)));
    c.strokeStyle = curve.colour;
    c.setLineDash(curve.dashed ? [6, 3] : []);
    c.beginPath();
    let down = false;
    for (let f = first; f <= last; f += stride) {
      const by = (curve.tidied.base[f]! - curve.raw.base[f]!) / curve.scale;
      if (by !== by) {
        down = false;
        continue;
      }
      const y = top + HEIGHT / 2 - (by / most) * (HEIGHT / 2 - 3);
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
