// The wave of a sound, where its offset puts it; where it may be moved, it is dragged.
import { frameToX, xToFrame } from "../timeAxis";
import type { Band, Gesture, Press, Stage, Track } from "../track";

/** Lowest and highest sample of each bucket; rate: buckets a second. */
export type Peaks = { data: Float32Array; rate: number };
const HEIGHT = 46;

/** offset: seconds by which the sound is later; onMove, onDrop: what a drag makes of it, where it may be dragged. */
export type Wave = {
  peaks: Peaks | null;
  offset: () => number;
  /** What is said where there is no sound. */
  none?: string;
  onMove?: (offset: number) => void;
  onDrop?: (offset: number) => void;
};

export function waveTrack({ peaks, offset, none = "no sound in this take", onMove, onDrop }: Wave): Track {
  return {
    id: "wave",
    height: HEIGHT,
    grows: true,
    draw: (stage, band) => draw(stage, peaks, offset(), band, none),
    press: (stage, _, at) => (onMove && onDrop && peaks ? dragging(stage, at, offset(), onMove, onDrop) : null),
  };
}

function dragging(
  { axis, rate }: Stage,
  begun: Press,
  from: number,
  onMove: (offset: number) => void,
  onDrop: (offset: number) => void,
): Gesture {
  const at = (p: Press) => Math.round((from + (xToFrame(axis, p.x) - xToFrame(axis, begun.x)) / rate) * 1000) / 1000;
  return { move: (p) => onMove(at(p)), release: (p) => onDrop(at(p)) };
}

function draw(
  { context: c, axis, width, palette, rate }: Stage,
  peaks: Peaks | null,
  offset: number,
  { top, height }: Band,
  none: string,
) {
  const middle = top + height / 2;
  if (!peaks) {
    c.fillStyle = palette.dim;
    c.fillText(none, 8, middle);
    return;
  }
  const buckets = peaks.data.length / 2;
  const bucketOf = (x: number) => (xToFrame(axis, x) / rate - offset) * peaks.rate;
  c.fillStyle = palette.faint;
  c.beginPath();
  for (let x = 0; x < width; x++) {
    const first = Math.max(0, Math.floor(bucketOf(x)));
    const last = Math.min(buckets, Math.max(first + 1, Math.ceil(bucketOf(x + 1))));
    let low = 0;
    let high = 0;
    // A wide view skips along: a wave needs no more than a few looks a pixel.
    const stride = Math.max(1, Math.floor((last - first) / 24));
    for (let i = first; i < last; i += stride) {
      low = Math.min(low, peaks.data[2 * i]!);
      high = Math.max(high, peaks.data[2 * i + 1]!);
    }
    if (first < buckets && bucketOf(x) > -1)
      c.rect(x, middle - high * (height / 2 - 2), 1, Math.max(1, (high - low) * (height / 2 - 2)));
  }
  c.fill();
  c.fillStyle = palette.accent;
  c.fillRect(Math.round(frameToX(axis, offset * rate)), top + 4, 2, height - 8);
}
