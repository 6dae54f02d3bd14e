// Keys on the curves that hold them.
import { frameToX } from "../timeAxis";
import type { Point } from "../track";
import { valueToY } from "../valueAxis";
import type { Curve, CurveView } from "./curves";

/** frame, value, slopes before and after, kind and, where a tangent is weighted, its weights. */
export type Row = [frame: number, value: number, before: number, after: number, kind: string, ...weights: number[]];
/** A shown curve that holds keys, or a correction of keys. */
export type KeyedCurve = { curve: Curve; mode: "keys" | "offset" | "factor"; rows: Row[] };
/** drag: how far the chosen keys are being dragged; stroke: a box, lasso or line under way, in pixels. */
export type KeysShown = {
  keys: KeyedCurve[];
  isChosen: (channel: string, frame: number) => boolean;
  chosenCount: number;
  drag: { frames: number; value: number } | null;
  stroke: Point[];
  strokeClosed: boolean;
};
export const NO_KEYS: KeysShown = {
  keys: [],
  isChosen: () => false,
  chosenCount: 0,
  drag: null,
  stroke: [],
  strokeClosed: false,
};

export const HANDLE = 34; // pixels from a key to the end of its tangent
export const MAX_TANGENTS = 3; // with more chosen keys the handles would hide the curves

/** Where a key lies on the screen; a correction's key lies on the curve that it corrects. */
export function placeOf(view: CurveView, held: KeyedCurve, row: Row): { x: number; y: number } {
  const at = Math.min(Math.max(Math.round(row[0]), 0), held.curve.tidied.frames - 1);
  const value = held.mode !== "keys" ? held.curve.tidied.base[at]! : row[1];
  return { x: frameToX(view.axis, row[0]), y: valueToY(view.value, value / held.curve.scale) };
}

/** The ends of a key's tangents, before and after it. */
export function handlesOf(view: CurveView, held: KeyedCurve, row: Row): { x: number; y: number }[] {
  const key = placeOf(view, held, row);
  const frames = HANDLE / (frameToX(view.axis, 1) - frameToX(view.axis, 0));
  const rise = (slope: number) => valueToY(view.value, 0) - valueToY(view.value, (slope * frames) / held.curve.scale);
  return [
    { x: key.x - HANDLE, y: key.y + rise(row[2]) },
    { x: key.x + HANDLE, y: key.y - rise(row[3]) },
  ];
}

/** Keys of the shown curves, the chosen ones with an off-white double outline and their tangents. */
export function drawKeys(view: CurveView) {
  const { context: c, palette } = view;
  if (!view.keys.length && !view.stroke.length) return;
  c.setLineDash([]);
  c.globalAlpha = 1;
  const tangents = view.chosenCount <= MAX_TANGENTS && !view.drag;
  for (const held of view.keys) {
    const [first, last] = [view.axis.from - 1, view.axis.to + 1];
    for (const row of held.rows) {
      if (row[0] < first || row[0] > last) continue;
      const chosen = view.isChosen(held.curve.name, row[0]);
      let { x, y } = placeOf(view, held, row);
      if (chosen && view.drag) {
        x += frameToX(view.axis, view.drag.frames) - frameToX(view.axis, 0);
        if (held.mode === "keys")
          y += valueToY(view.value, view.drag.value / held.curve.scale) - valueToY(view.value, 0);
      }
      if (chosen && row[4] === "free" && tangents) drawHandles(view, held, row, x, y);
      mark(c, row[4], x, y, chosen ? 4.5 : 3.5);
      c.fillStyle = palette.ground;
      c.fill();
      c.strokeStyle = chosen ? palette.paper : held.curve.colour;
      c.lineWidth = chosen ? 1.8 : 1.4;
      c.stroke();
      if (chosen) {
        mark(c, row[4], x, y, 7.5);
        c.lineWidth = 1;
        c.stroke();
      }
    }
  }
  drawStroke(view);
}

/** Round for smooth and free keys, square for flat and linear ones, a corner down for stepped ones. */
function mark(c: CanvasRenderingContext2D, kind: string, x: number, y: number, size: number) {
  c.beginPath();
  if (kind === "smooth" || kind === "free") c.arc(x, y, size, 0, Math.PI * 2);
  else if (kind === "stepped") {
    c.moveTo(x - size, y - size);
    c.lineTo(x + size, y - size);
    c.lineTo(x - size, y + size);
    c.closePath();
  } else c.rect(x - size * 0.85, y - size * 0.85, size * 1.7, size * 1.7);
}

function drawHandles(view: CurveView, held: KeyedCurve, row: Row, x: number, y: number) {
  const { context: c, palette } = view;
  c.strokeStyle = palette.dim;
  c.lineWidth = 1;
  for (const end of handlesOf(view, held, row)) {
    c.beginPath();
    c.moveTo(x, y);
    c.lineTo(end.x, end.y);
    c.stroke();
    c.beginPath();
    c.arc(end.x, end.y, 2.5, 0, Math.PI * 2);
    c.fillStyle = palette.paper;
    c.fill();
  }
}

function drawStroke(view: CurveView) {
  const { context: c, palette, stroke } = view;
  if (stroke.length < 2) return;
  c.strokeStyle = palette.paper;
  c.lineWidth = 1.2;
  c.setLineDash(view.strokeClosed ? [4, 3] : []);
  c.beginPath();
  stroke.forEach((p, i) => (i ? c.lineTo(p.x, p.y) : c.moveTo(p.x, p.y)));
  if (view.strokeClosed) c.closePath();
  c.stroke();
}
