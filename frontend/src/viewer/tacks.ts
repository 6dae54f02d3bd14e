// Tacks: what is set by hand at a frame of the clip, kept with the take. Pure but for drawing.
import type { TakeBody } from "../api/client";
import type { Place } from "./footage";
import type { Face } from "./seenPoints";

export type Tacks = TakeBody["tacks"];
export type Tack = Tacks[string];
export const SPAN = 6;

const HALF = 6; // pixels from a diamond's middle to its corners

/** The tack that already sets the same thing at the same frame: it is moved, not doubled. */
export function sameAs(tacks: Tacks, tack: Tack): string | undefined {
  return Object.entries(tacks).find(
    ([, p]) =>
      p.frame === tack.frame &&
      ("shape" in p ? "shape" in tack && p.shape === tack.shape : "point" in tack && p.point === tack.point),
  )?.[0];
}

/** How much a tack still counts at a frame: 1 at its own, 0 beyond its span. */
export const felt = (tack: Tack, frame: number): number =>
  Math.abs(frame - tack.frame) > tack.span
    ? 0
    : 0.5 + 0.5 * Math.cos((Math.PI * (frame - tack.frame)) / (tack.span + 1));

/** Diamonds where points are tacked, with a line from where each was tracked; fainter away from the tack's frame. */
export function drawTacks(
  c: CanvasRenderingContext2D,
  tacks: Tacks,
  faceOf: (frame: number) => Face | null,
  frame: number,
  at: Place,
  colour: string,
) {
  c.strokeStyle = c.fillStyle = colour;
  c.lineWidth = 1.5;
  for (const tack of Object.values(tacks)) {
    if (!("point" in tack)) continue;
    c.globalAlpha = felt(tack, frame);
    if (c.globalAlpha <= 0.02) continue;
    const [x, y] = [at.left + tack.x * at.scale, at.top + tack.y * at.scale];
    const face = faceOf(tack.frame);
    if (face) {
      c.beginPath();
      c.moveTo(at.left + face[2 * tack.point]! * at.scale, at.top + face[2 * tack.point + 1]! * at.scale);
      c.lineTo(x, y);
      c.stroke();
    }
    c.beginPath();
    c.moveTo(x, y - HALF);
    c.lineTo(x + HALF, y);
    c.lineTo(x, y + HALF);
    c.lineTo(x - HALF, y);
    c.closePath();
    c.stroke();
    c.fillRect(x - 1, y - 1, 2, 2);
  }
  c.globalAlpha = 1;
}
