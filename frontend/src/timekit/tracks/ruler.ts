import { frameLabel, frameToX, markStep } from "../timeAxis";
import type { Track } from "../track";

export const RULER = 22;

/** Frames, seconds or timecode. */
export const rulerTrack: Track = {
  id: "ruler",
  height: RULER,
  draw: ({ context: c, axis, rate, unit, start, palette }, { top, height }) => {
    c.font = "11px 'IBM Plex Sans', sans-serif";
    c.textBaseline = "middle";
    c.fillStyle = palette.dim;
    const step = markStep(axis, rate, unit);
    for (let frame = Math.max(0, Math.ceil(axis.from / step) * step); frame <= axis.to; frame += step)
      c.fillText(frameLabel(frame, rate, unit, start), Math.round(frameToX(axis, frame)) + 4.5, top + height / 2);
  },
};
