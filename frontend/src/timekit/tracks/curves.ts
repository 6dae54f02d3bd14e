// Curves over lines of value, with the keys that they hold.
import { drawCrowd } from "../crowd";
import { levelFor, type Pyramid } from "../decimate";
import { nearest } from "../hitTest";
import { frameToX, xToFrame, type TimeAxis } from "../timeAxis";
import type { Band, Gesture, Point, Press, Stage, Track } from "../track";
import { valueMarks, valueToY, type ValueAxis } from "../valueAxis";
import { drawKeys, type KeysShown } from "./keys";

export type Curve = {
  name: string;
  region: string;
  colour: string;
  dashed: boolean;
  scale: number;
  tidied: Pyramid;
  raw: Pyramid;
};
/** Where curves are drawn, for those who work on them. */
export type CurveView = Stage & KeysShown & { band: Band; value: ValueAxis; curves: Curve[] };

/** range: lowest and highest value that is shown; comparing: a band shades what is between raw and tidied; rawName: what is
 * compared with. */
export type Curves = {
  curves: Curve[];
  range: { low: number; high: number };
  comparing: boolean;
  rawName: string;
  keys: () => KeysShown;
  onPress?: (view: CurveView, at: Press) => Gesture | null;
  onTwice?: (view: CurveView, at: Press) => void;
};

const CROWDED = 12;
const AIR = 4;

export function curveTrack(of: Curves): Track {
  const viewOf = (stage: Stage, band: Band): CurveView => ({
    ...stage,
    ...of.keys(),
    band,
    curves: of.curves,
    value: { ...of.range, top: band.top + AIR, bottom: band.top + band.height - AIR },
  });
  return {
    id: "curves",
    height: "rest",
    draw: (stage, band) => {
      const view = viewOf(stage, band);
      stage.context.save();
      stage.context.beginPath();
      stage.context.rect(0, band.top, stage.width, band.height);
      stage.context.clip();
      drawValues(view);
      if (of.curves.length > CROWDED) drawMany(view);
      else drawCurves(view, of.comparing);
      drawKeys(view);
      stage.context.restore();
    },
    press: (stage, band, at) => of.onPress?.(viewOf(stage, band), at) ?? null,
    twice: (stage, band, at) => of.onTwice?.(viewOf(stage, band), at),
    say: (stage, band, at) => readOut(viewOf(stage, band), of.rawName, at),
  };
}

function drawValues({ context: c, value, width, palette }: CurveView) {
  c.lineWidth = 1;
  c.setLineDash([]);
  for (const mark of valueMarks(value)) {
    const y = Math.round(valueToY(value, mark)) + 0.5;
    c.strokeStyle = mark === 0 ? palette.faint : palette.line;
    c.beginPath();
    c.moveTo(0, y);
    c.lineTo(width, y);
    c.stroke();
    c.fillStyle = palette.dim;
    c.fillText(String(Number(mark.toFixed(3))), 4, y - 7);
  }
}

/** The curves, with the band between raw and tidied while comparing. */
function drawCurves(view: CurveView, comparing: boolean) {
  const { context: c } = view;
  c.lineJoin = "round";
  for (const curve of view.curves) {
    const toY = (value: number) => valueToY(view.value, value / curve.scale);
    if (comparing) drawBand(view, curve, toY);
    c.strokeStyle = curve.colour;
    c.globalAlpha = 1;
    c.lineWidth = 1.6;
    c.setLineDash(curve.dashed && dashes(view) ? [6, 3] : []);
    c.beginPath();
    trace(c, view.axis, curve.tidied, toY);
    c.stroke();
  }
}

const shown = (value: number) => (Number.isNaN(value) ? "gap" : value.toFixed(3));

/** Name and values of the curve under the pointer. */
function readOut(view: CurveView, rawName: string, { x, y }: Point): string | null {
  const frame = Math.min(Math.max(Math.round(xToFrame(view.axis, x)), 0), view.frames - 1);
  const name = nearest(
    view.curves.map((c) => ({
      name: c.name,
      valueAt: (f) => valueAt(c.tidied, f),
      toY: (v) => valueToY(view.value, v / c.scale),
    })),
    frame,
    y,
  );
  const found = view.curves.find((c) => c.name === name);
  if (!found) return null;
  const [now, raw] = [shown(valueAt(found.tidied, frame)), shown(valueAt(found.raw, frame))];
  return `${found.name}  ${now}  (${rawName} ${raw})  frame ${frame}`;
}

let sheet: { canvas: HTMLCanvasElement; image: ImageData; pixels: Uint32Array } | null = null;

function drawMany(view: CurveView) {
  const { context: c, axis } = view;
  const ratio = c.getTransform().a;
  const top = Math.round(view.band.top * ratio);
  const width = c.canvas.width;
  const height = Math.max(Math.round(view.band.height * ratio), 1);
  if (sheet?.canvas.width !== width || sheet.canvas.height !== height) {
    const canvas = document.createElement("canvas");
    canvas.width = width;
    canvas.height = height;
    const image = new ImageData(width, height);
    sheet = { canvas, image, pixels: new Uint32Array(image.data.buffer) };
  }
  const crowd = view.curves.map((curve) => {
    const at = (value: number) => valueToY(view.value, value / curve.scale) * ratio - top;
    return { of: curve.tidied, colour: packed(curve.colour), y0: at(0), dy: at(1) - at(0) };
  });
  const columns = { from: axis.from, step: (xToFrame(axis, 1) - axis.from) / ratio };
  drawCrowd(sheet.pixels, width, height, columns, crowd);
  sheet.canvas.getContext("2d")!.putImageData(sheet.image, 0, 0);
  c.globalAlpha = 0.85;
  c.drawImage(sheet.canvas, 0, top / ratio, width / ratio, height / ratio);
  c.globalAlpha = 1;
}

/** Whether dashes can be told apart: with many frames a pixel a curve goes up and down more than along, and dashing it takes long. */
const dashes = ({ axis }: CurveView) => (axis.to - axis.from) / axis.width < 6;

/** "#RRGGBB" as 0xBBGGRR. */
const packed = (colour: string) => {
  const value = parseInt(colour.slice(1), 16);
  return ((value & 255) << 16) | (value & 0xff00) | (value >> 16);
};

function drawBand(view: CurveView, curve: Curve, toY: (v: number) => number) {
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
    const raw = curve.raw.base[frame]!;
    const tidied = curve.tidied.base[frame]!;
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
  c.globalAlpha = 1;
  // With many frames a pixel the band alone says what differs.
  if (!dashes(view)) return;
  c.globalAlpha = 0.55;
  c.strokeStyle = curve.colour;
  c.lineWidth = 1;
  c.setLineDash([1.5, 2.5]);
  c.beginPath();
  trace(c, axis, curve.raw, toY);
  c.stroke();
  c.globalAlpha = 1;
}

/** A line through frames when they are wide apart, else through lowest and highest of each run of frames. */
function trace(c: CanvasRenderingContext2D, axis: TimeAxis, of: Pyramid, toY: (v: number) => number) {
  const { level, length } = levelFor(of, (axis.to - axis.from) / axis.width);
  // Both axes are linear: two numbers each, so that the loops below do no more than they must.
  const x0 = frameToX(axis, 0);
  const dx = frameToX(axis, 1) - x0;
  const y0 = toY(0);
  const dy = toY(1) - y0;
  const first = Math.max(0, Math.floor(axis.from / length) - 1);
  let down = false;
  if (level < 0) {
    const last = Math.min(of.frames - 1, Math.ceil(axis.to) + 1);
    const { base } = of;
    for (let frame = first; frame <= last; frame++) {
      const value = base[frame]!;
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
  return of.base[held]!;
}
