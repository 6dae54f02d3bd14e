// A track: one strip of the deck. It is drawn where the deck puts it, and says what a press in it begins; what it shows and what
// its gestures mean is its maker's. Pure but for drawing.
import type { TimeAxis, TimecodeStart, Unit } from "./timeAxis";

export type Palette = {
  ground: string;
  lane: string;
  line: string;
  faint: string;
  text: string;
  dim: string;
  accent: string;
  paper: string;
};
export type Point = { x: number; y: number };
/** Where the pointer is; adding: with Shift or Ctrl. */
export type Press = Point & { adding: boolean };
export type Span = { from: number; to: number };

/** What every track is drawn with. */
export type Stage = {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
  axis: TimeAxis;
  rate: number;
  unit: Unit;
  start: TimecodeStart;
  frames: number;
  frame: number;
  range: Span | null;
  palette: Palette;
};
/** The strip that a track has, in pixels from the deck's top; seen: what can be seen of it, where it lies among lanes that scroll. */
export type Band = { top: number; height: number; seen?: { top: number; bottom: number } };
/** A gesture under way: each move and the release get the pointer's place. */
export type Gesture = { move: (at: Press) => void; release: (at: Press) => void };

export type Track = {
  id: string;
  /** Pixels, or what the others leave. */
  height: number | "rest";
  /** Whether it is drawn as tall as its band is: its lower edge can be pulled then. */
  grows?: boolean;
  draw: (stage: Stage, band: Band) => void;
  /** What a press begins: a gesture, nothing more ("taken"), or null for the deck's own (scrubbing). */
  press?: (stage: Stage, band: Band, at: Press) => Gesture | "taken" | null;
  /** A double click. */
  twice?: (stage: Stage, band: Band, at: Press) => void;
  /** What is under the pointer, in words. */
  say?: (stage: Stage, band: Band, at: Point) => string | null;
};
