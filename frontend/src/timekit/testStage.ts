// A stage for tests of tracks: it keeps what was drawn instead of drawing it.
import type { Palette, Stage } from "./track";

export type Call = { what: string; args: unknown[]; fill: string; stroke: string; alpha: number };

/** A 2D context that writes down each call with the colours that held then. */
export function recordingContext(): { context: CanvasRenderingContext2D; calls: Call[] } {
  const calls: Call[] = [];
  const state: Record<string, unknown> = { fillStyle: "", strokeStyle: "", globalAlpha: 1 };
  const context = new Proxy(state, {
    get: (held, name: string) =>
      name in held
        ? held[name]
        : (...args: unknown[]) =>
            void calls.push({
              what: name,
              args,
              fill: String(held.fillStyle),
              stroke: String(held.strokeStyle),
              alpha: Number(held.globalAlpha),
            }),
    set: (held, name: string, value) => {
      held[name] = value;
      return true;
    },
  });
  return { context: context as unknown as CanvasRenderingContext2D, calls };
}

export const PALETTE: Palette = {
  ground: "ground",
  lane: "lane",
  line: "line",
  faint: "faint",
  text: "text",
  dim: "dim",
  accent: "accent",
  paper: "paper",
};

/** Frames 0 to 100 on 1000 pixels: a frame is ten of them. */
export function testStage(more: Partial<Stage> = {}): Stage & { calls: Call[] } {
  const { context, calls } = recordingContext();
  return {
    context,
    calls,
    width: 1000,
    height: 300,
    axis: { from: 0, to: 100, width: 1000 },
    rate: 50,
    unit: "frames",
    start: null,
    frames: 101,
    frame: 0,
    range: null,
    palette: PALETTE,
    ...more,
  };
}
