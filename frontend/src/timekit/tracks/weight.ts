// A weight over time as a line: its keys are dragged in time and value, a double click adds one, or takes one away.
import { frameToX, xToFrame, type TimeAxis } from "../timeAxis";
import type { Track } from "../track";

export type WeightKey = { id: string; frame: number; value: number };
export type WeightLine = {
  id: string;
  word: string;
  keys: WeightKey[];
  /** Its value at a frame, 0 to 1. */
  at: (frame: number) => number;
  onDrag: (key: WeightKey) => void;
  onDrop: (key: WeightKey) => void;
  onAdd: (frame: number, value: number) => void;
  onRemove: (id: string) => void;
};
const HEIGHT = 30;
const MARGIN = 5; // pixels above 1 and below 0
const NEAR = 7; // pixels from a key within which it is meant
const SIZE = 3.5;

export function weightTrack(of: WeightLine): Track {
  return {
    id: of.id,
    height: HEIGHT,
    draw: ({ context: c, axis, palette, width, frames }, { top }) => {
      const [from, to] = [Math.max(frameToX(axis, 0), 0), Math.min(frameToX(axis, frames), width)];
      c.lineWidth = 1;
      c.setLineDash([]);
      c.strokeStyle = palette.faint;
      c.strokeRect(from, top + MARGIN + 0.5, Math.max(to - from, 0), HEIGHT - 2 * MARGIN - 1);
      c.strokeStyle = palette.paper;
      c.lineWidth = 1.5;
      c.beginPath();
      for (let x = from; x <= to; x += 2) {
        const y = top + yOf(of.at(xToFrame(axis, x)));
        if (x === from) c.moveTo(x, y);
        else c.lineTo(x, y);
      }
      c.stroke();
      c.fillStyle = palette.accent;
      for (const key of of.keys) {
        const [x, y] = [frameToX(axis, key.frame), top + yOf(key.value)];
        if (x < -SIZE || x > width + SIZE) continue;
        c.beginPath();
        c.moveTo(x, y - SIZE);
        c.lineTo(x + SIZE, y);
        c.lineTo(x, y + SIZE);
        c.lineTo(x - SIZE, y);
        c.fill();
      }
      c.fillStyle = palette.dim;
      c.textBaseline = "top";
      c.fillText(of.word, 4, top + HEIGHT / 2 - 5);
    },
    press: ({ axis, frames }, { top }, { x, y }) => {
      const key = keyAt(axis, of.keys, x, y - top);
      if (!key) return null;
      const off = { x: x - frameToX(axis, key.frame), y: y - top - yOf(key.value) };
      let now: WeightKey | null = null;
      return {
        move: (at) => {
          const frame = Math.min(Math.max(Math.round(xToFrame(axis, at.x - off.x)), 0), frames - 1);
          now = { id: key.id, frame, value: valueAt(at.y - top - off.y) };
          of.onDrag(now);
        },
        release: () => now && of.onDrop(now),
      };
    },
    twice: ({ axis, frames }, { top }, { x, y }) => {
      const key = keyAt(axis, of.keys, x, y - top);
      const frame = Math.round(xToFrame(axis, x));
      if (key) of.onRemove(key.id);
      else if (frame >= 0 && frame < frames) of.onAdd(frame, valueAt(y - top));
    },
    say: ({ axis }, { top }, { x, y }) => {
      const key = keyAt(axis, of.keys, x, y - top);
      if (key) return `${of.word} ${key.value.toFixed(2)} at frame ${key.frame}: drag it, a double click takes it away`;
      return `${of.word} ${of.at(xToFrame(axis, x)).toFixed(2)}: a double click adds a key`;
    },
  };
}

const yOf = (value: number) => MARGIN + (1 - value) * (HEIGHT - 2 * MARGIN);
/** The value at a height of the track, in hundredths. */
const valueAt = (y: number) =>
  Math.round(100 * Math.min(Math.max(1 - (y - MARGIN) / (HEIGHT - 2 * MARGIN), 0), 1)) / 100;

/** The key at a place, y from the top of the track. Pure. */
export function keyAt(axis: TimeAxis, keys: WeightKey[], x: number, y: number): WeightKey | null {
  let best: WeightKey | null = null;
  let least = NEAR;
  for (const key of keys) {
    const off = Math.hypot(frameToX(axis, key.frame) - x, yOf(key.value) - y);
    if (off < least) [best, least] = [key, off];
  }
  return best;
}
