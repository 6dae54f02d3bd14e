import { levelFor, type Pyramid } from "../decimate";
import { frameToX, type TimeAxis } from "../timeAxis";
import { valueToY } from "../valueAxis";
import { curvesTop, type Curve, type DeckView } from "../view";

/** The chosen curves, with the band between raw and tidied while comparing. */
export function drawCurves(view: DeckView) {
  const { context: c, width, height } = view;
  c.save();
  c.beginPath();
  c.rect(0, curvesTop, width, height - curvesTop);
  c.clip();
  c.lineJoin = "round";
  const crowded = view.curves.length > 12;
  for (const curve of view.curves) {
    const toY = (value: number) => valueToY(view.value, value / curve.scale);
    if (view.comparing && !crowded) drawBand(view, curve, toY);
    c.strokeStyle = curve.colour;
    c.globalAlpha = crowded ? 0.8 : 1;
    c.lineWidth = crowded ? 1 : 1.6;
    c.setLineDash(curve.dashed && !crowded ? [6, 3] : []);
    c.beginPath();
    trace(c, view.axis, curve.tidied, toY, crowded);
    c.stroke();
  }
  c.restore();
}

function drawBand(view: DeckView, curve: Curve, toY: (v: number) => number) {
  const { context: c, axis } = view;
  const first = Math.max(0, Math.floor(axis.from));
  const last = Math.min(curve.tidied.frames - 1, Math.ceil(axis.to));
  const stride = Math.max(1, Math.floor((last - first) / Math.max(view.width, 1)));
  c.fillStyle = curve.colour;
  c.globalAlpha = 0.22;
  c.beginPath();
  let open = false;
  let back: [number, number][] = [];
  const close = () => {
    for (let i = back.length - 1; i >= 0; i--) c.lineTo(back[i]![0], back[i]![1]);
    c.closePath();
    back = [];
    open = false;
  };
  for (let frame = first; frame <= last; frame += stride) {
    const raw = curve.raw.base[frame * curve.raw.stride + curve.raw.offset]!;
    const tidied = curve.tidied.base[frame * curve.tidied.stride + curve.tidied.offset]!;
    if (raw !== raw || tidied !== tidied) {
      if (open) close();
      continue;
    }
    const x = frameToX(axis, frame);
    if (open) c.lineTo(x, toY(tidied));
    else c.moveTo(x, toY(tidied));
    open = true;
    back.push([x, toY(raw)]);
  }
  if (open) close();
  c.fill();
  c.globalAlpha = 0.55;
  c.strokeStyle = curve.colour;
  c.lineWidth = 1;
  c.setLineDash([1.5, 2.5]);
  c.beginPath();
  trace(c, axis, curve.raw, toY);
  c.stroke();
  c.globalAlpha = 1;
}

/** A line through frames when they are wide apart, else through lowest and highest of each run of frames.
 *  `crowded`: among many curves a run may be up to three pixels wide; nobody can see more. */
function trace(c: CanvasRenderingContext2D, axis: TimeAxis, of: Pyramid, toY: (v: number) => number, crowded = false) {
  const { level, length } = levelFor(of, ((axis.to - axis.from) / axis.width) * (crowded ? 3 : 1));
  // Both axes are linear: two numbers each, so that the loops below do no more than they must.
  const x0 = frameToX(axis, 0);
  const dx = frameToX(axis, 1) - x0;
  const y0 = toY(0);
  const dy = toY(1) - y0;
  const first = Math.max(0, Math.floor(axis.from / length) - 1);
  let down = false;
  if (level < 0) {
    const last = Math.min(of.frames - 1, Math.ceil(axis.to) + 1);
    const { base, stride, offset } = of;
    for (let frame = first, at = first * stride + offset; frame <= last; frame++, at += stride) {
      const value = base[at]!;
      if (value !== value) down = false;
      else if (down) c.lineTo(x0 + frame * dx, y0 + value * dy);
      else {
        c.moveTo(x0 + frame * dx, y0 + value * dy);
        down = true;
      }
    }
    return;
  }
  const lows = of.lows[level]!;
  const highs = of.highs[level]!;
  const last = Math.min(lows.length - 1, Math.ceil(axis.to / length) + 1);
  const step = length * dx;
  for (let cell = first, x = x0 + first * step; cell <= last; cell++, x += step) {
    const low = lows[cell]!;
    const high = highs[cell]!;
    if (low !== low) {
      down = false;
      continue;
    }
    if (down) c.lineTo(x, y0 + high * dy);
    else c.moveTo(x, y0 + high * dy);
    // A run that is hardly higher than a line needs no second point.
    if ((high - low) * -dy > 0.75) c.lineTo(x, y0 + low * dy);
    down = true;
  }
}

/** The value of a curve at a frame, for readouts. */
export function valueAt(of: Pyramid, frame: number): number {
  const held = Math.min(Math.max(Math.round(frame), 0), of.frames - 1);
  return of.base[held * of.stride + of.offset]!;
}

