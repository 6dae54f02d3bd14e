// Pins: what is set by hand at a frame of the clip, kept with the take. Pure but for drawing.
import type { Table } from "../api/bundle";
import type { TakeBody } from "../api/client";
import type { Place } from "./footage";

export type Pins = TakeBody["pins"];
export type Pin = Pins[string];
export const SPAN = 6;

/** The pin that already sets the same thing at the same frame: it is moved, not doubled. */
export function sameAs(pins: Pins, pin: Pin): string | undefined {
  return Object.entries(pins).find(
    ([, p]) =>
      p.frame === pin.frame &&
      ("shape" in p ? "shape" in pin && p.shape === pin.shape : "point" in pin && p.point === pin.point),
  )?.[0];
}

/** How much a pin still counts at a frame: 1 at its own, 0 beyond its span. */
export const felt = (pin: Pin, frame: number): number =>
  Math.abs(frame - pin.frame) > pin.span ? 0 : 0.5 + 0.5 * Math.cos((Math.PI * (frame - pin.frame)) / (pin.span + 1));

/** Rings where points are pinned, with a line from where each was tracked; fainter away from the pin's frame. */
export function drawPins(
  c: CanvasRenderingContext2D,
  pins: Pins,
  points: Table,
  frame: number,
  at: Place,
  colour: string,
) {
  c.strokeStyle = c.fillStyle = colour;
  c.lineWidth = 1.5;
  for (const pin of Object.values(pins)) {
    if (!("point" in pin)) continue;
    c.globalAlpha = felt(pin, frame);
    if (c.globalAlpha <= 0.02) continue;
    const base = pin.frame * points.shape[1]! * 2 + 2 * pin.point;
    const [x, y] = [at.left + pin.x * at.scale, at.top + pin.y * at.scale];
    c.beginPath();
    c.moveTo(at.left + points.data[base]! * at.scale, at.top + points.data[base + 1]! * at.scale);
    c.lineTo(x, y);
    c.stroke();
    c.beginPath();
    c.arc(x, y, 5, 0, Math.PI * 2);
    c.stroke();
    c.fillRect(x - 1, y - 1, 2, 2);
  }
  c.globalAlpha = 1;
}
