// Where footage lies in its view, and drawing what was tracked. Pure but for the context drawn on.
import type { Face } from "./seenPoints";

export type Place = { left: number; top: number; scale: number };

/** A picture fitted whole into a box, in its middle. */
export function placed(width: number, height: number, boxWidth: number, boxHeight: number): Place {
  const scale = Math.min(boxWidth / width, boxHeight / height);
  return { left: (boxWidth - width * scale) / 2, top: (boxHeight - height * scale) / 2, scale };
}

/** Seconds into the clip for seconds of the take; the middle of a picture, so that rounding never shows its neighbour. */
export const videoTime = (seconds: number, first: number, rate: number): number =>
  (Math.round(seconds * rate) + first + 0.5) / rate;

// Contours of the landmark set, by the region that they speak of.
const EYES = [
  [33, 7, 163, 144, 145, 153, 154, 155, 133, 173, 157, 158, 159, 160, 161, 246],
  [263, 249, 390, 373, 374, 380, 381, 382, 362, 398, 384, 385, 386, 387, 388, 466],
];
const LIPS = [
  [61, 146, 91, 181, 84, 17, 314, 405, 321, 375, 291, 409, 270, 269, 267, 0, 37, 39, 40, 185],
  [78, 95, 88, 178, 87, 14, 317, 402, 318, 324, 308, 415, 310, 311, 312, 13, 82, 81, 80, 191],
];
const BROWS = [
  [70, 63, 105, 66, 107],
  [300, 293, 334, 296, 336],
];
const JAW = [[234, 93, 132, 58, 172, 136, 150, 149, 176, 148, 152, 377, 400, 378, 379, 365, 397, 288, 361, 323, 454]];
const NOSE = [[168, 6, 197, 195, 5, 4]];
const IRISES = [468, 473];
const LINES: [string, number[][], boolean][] = [
  ["lids", EYES, true],
  ["lips", LIPS, true],
  ["brows", BROWS, false],
  ["jaw", JAW, false],
  ["nose", NOSE, false],
];

/** Contours and points of the face in a frame; nothing where no face was seen. */
export function drawPoints(c: CanvasRenderingContext2D, face: Face, at: Place, colourOf: (region: string) => string) {
  const x = (n: number) => at.left + face[2 * n]! * at.scale;
  const y = (n: number) => at.top + face[2 * n + 1]! * at.scale;
  if (Number.isNaN(face[0]!)) return;
  c.lineWidth = 1.25;
  for (const [region, lines, closed] of LINES) {
    c.strokeStyle = c.fillStyle = colourOf(region);
    for (const line of lines) {
      c.globalAlpha = 0.55;
      c.beginPath();
      line.forEach((n, i) => (i ? c.lineTo(x(n), y(n)) : c.moveTo(x(n), y(n))));
      if (closed) c.closePath();
      c.stroke();
      c.globalAlpha = 0.95;
      for (const n of line) c.fillRect(x(n) - 1, y(n) - 1, 2, 2);
    }
  }
  c.globalAlpha = 1;
  c.strokeStyle = colourOf("gaze");
  for (const n of IRISES) {
    c.beginPath();
    c.arc(x(n), y(n), Math.hypot(x(n + 1) - x(n), y(n + 1) - y(n)), 0, Math.PI * 2);
    c.stroke();
  }
}

const DRAWN = LINES.flatMap(([region, lines]) => lines.flat().map((point) => ({ region, point })));

/** The drawn point nearest to (x, y) within `reach` CSS pixels, and where it is in the picture. */
export function pointAt(
  face: Face,
  at: Place,
  x: number,
  y: number,
  reach = 10,
): { point: number; x: number; y: number } | null {
  let best = reach;
  let found: { point: number; x: number; y: number } | null = null;
  for (const { point } of DRAWN) {
    const [px, py] = [face[2 * point]!, face[2 * point + 1]!];
    const away = Math.hypot(at.left + px * at.scale - x, at.top + py * at.scale - y);
    if (away < best) {
      best = away;
      found = { point, x: px, y: py };
    }
  }
  return found;
}

/** A place in the view as pixels of the picture. */
export const inPicture = (at: Place, x: number, y: number): { x: number; y: number } => ({
  x: (x - at.left) / at.scale,
  y: (y - at.top) / at.scale,
});
