import { frameToX, xToFrame } from "../timeAxis";
import { STRIPS, type DeckView } from "../view";

/** The sound wave where the sound offset puts it. */
export function drawWave(view: DeckView) {
  const { context: c, axis, width, palette, peaks } = view;
  const top = STRIPS.ruler + STRIPS.snags;
  const middle = top + STRIPS.wave / 2;
  if (!peaks) {
    c.fillStyle = palette.dim;
    c.fillText("no sound in this take", 8, middle);
    return;
  }
  const buckets = peaks.data.length / 2;
  const bucketOf = (x: number) => (xToFrame(axis, x) / view.rate - view.soundOffset) * peaks.rate;
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
      c.rect(x, middle - high * (STRIPS.wave / 2 - 2), 1, Math.max(1, (high - low) * (STRIPS.wave / 2 - 2)));
  }
  c.fill();
  const from = frameToX(axis, view.soundOffset * view.rate);
  c.fillStyle = palette.accent;
  c.fillRect(Math.round(from), top + 4, 2, STRIPS.wave - 8);
}
