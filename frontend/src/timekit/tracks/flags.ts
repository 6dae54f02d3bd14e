// A strip of flags: places that were found, the taller the worse, over marks of a fixed height.
import { frameToX, xToFrame, type TimeAxis } from "../timeAxis";
import type { Stage, Track } from "../track";

/** A mark of a fixed height, 0..1 of the strip; faint ones lie under the others. */
export type Mark = { from: number; to: number; height: number; tone: "accent" | "text" | "faint" };
/** severity: 0..1; whole: it is about most of the time and lies under the others. */
export type Flag = {
  key: string;
  from: number;
  to: number;
  severity: number;
  colour: string;
  chosen: boolean;
  whole: boolean;
};

const HEIGHT = 10;

export function flagTrack(marks: Mark[], flags: Flag[], onPress: (key: string) => void): Track {
  return {
    id: "flags",
    height: HEIGHT,
    draw: (stage, { top }) => {
      for (const mark of marks) drawMark(stage, mark, top + HEIGHT);
      // Long ones first, so that short ones lie on top and can be pressed.
      for (const flag of flags) drawFlag(stage, flag, top);
      stage.context.globalAlpha = 1;
    },
    press: (stage, _, { x }) => {
      const flag = flagAt(stage.axis, flags, x);
      if (flag) onPress(flag.key);
      return flag ? "taken" : null;
    },
  };
}

function drawMark({ context: c, axis, palette, width }: Stage, mark: Mark, bottom: number) {
  const x = frameToX(axis, mark.from);
  const wide = Math.max(mark.tone === "faint" ? 1 : 2, frameToX(axis, mark.to) - x);
  if (x > width || x + wide < 0) return;
  c.fillStyle = palette[mark.tone];
  c.globalAlpha = mark.tone === "faint" ? 0.6 : 0.95;
  c.fillRect(x, bottom - mark.height * HEIGHT, wide, mark.height * HEIGHT);
}

function drawFlag({ context: c, axis, palette, width, height }: Stage, flag: Flag, top: number) {
  const x = frameToX(axis, flag.from);
  const wide = Math.max(3, frameToX(axis, flag.to + 1) - x);
  if (x > width || x + wide < 0) return;
  const bottom = top + HEIGHT;
  const tall = 4 + flag.severity * 6;
  c.fillStyle = flag.colour;
  c.globalAlpha = flag.whole ? 0.35 : 0.95;
  c.fillRect(x, bottom - tall, wide, tall);
  if (!flag.chosen) return;
  c.globalAlpha = 1;
  c.strokeStyle = palette.paper;
  c.lineWidth = 1.5;
  c.setLineDash([]);
  c.strokeRect(x - 1.5, top - 0.5, wide + 3, HEIGHT + 1);
  c.globalAlpha = 0.1;
  c.fillStyle = palette.paper;
  c.fillRect(x, bottom, wide, height - bottom);
}

/** The flag at a place: the shortest of those that lie there. Pure. */
export function flagAt(axis: TimeAxis, flags: Flag[], x: number): Flag | null {
  const reach = (xToFrame(axis, 4) - xToFrame(axis, 0)) | 0;
  const frame = xToFrame(axis, x);
  const under = flags.filter((f) => frame >= f.from - 1 - reach && frame <= f.to + 1 + reach);
  return under.sort((a, b) => a.to - a.from - (b.to - b.from))[0] ?? null;
}
