// What every layer of the deck is given to draw with.
import type { Chosen, Point, Row } from "../keys/keys";
import type { Crossing, Held } from "../workspace/tables";
import type { Pyramid } from "./decimate";
import type { TimeAxis, TimecodeStart, Unit } from "./timeAxis";
import type { ValueAxis } from "./valueAxis";

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

export type Curve = {
  name: string;
  region: string;
  colour: string;
  dashed: boolean;
  scale: number;
  tidied: Pyramid;
  raw: Pyramid;
};

export type Mark = { from: number; to: number; kind: "gap" | "dropped" | "doubled" | "uneven" };

/** A snag in the strip; `whole`: it is about most of the take and lies under the others. */
export type SnagMark = {
  key: string;
  from: number;
  to: number;
  severity: number;
  colour: string;
  chosen: boolean;
  whole: boolean;
};

/** A shown curve that holds keys, or a correction of keys. */
export type KeyedCurve = { curve: Curve; mode: "keys" | "offset"; rows: Row[] };

export type DeckView = {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
  axis: TimeAxis;
  value: ValueAxis;
  rate: number;
  unit: Unit;
  start: TimecodeStart;
  frames: number;
  frame: number;
  curves: Curve[];
  comparing: boolean;
  range: { from: number; to: number } | null;
  peaks: { data: Float32Array; rate: number } | null;
  soundOffset: number;
  marks: Mark[];
  snags: SnagMark[];
  /** Contacts that are kept on the character's mesh, at the desk that shows them. */
  held: { kept: Held[]; crossings: Crossing[] } | null;
  keys: KeyedCurve[];
  chosen: Chosen;
  /** How far the chosen keys are being dragged. */
  drag: { frames: number; value: number } | null;
  /** A box, lasso or drawn line under way, in pixels. */
  stroke: Point[];
  strokeClosed: boolean;
  /** Whether the difference has a lane of its own. */
  lane: boolean;
  palette: Palette;
};

/** Heights of the strips, from the top. */
export const STRIPS = { ruler: 22, snags: 10, wave: 46 };
export const curvesTop = STRIPS.ruler + STRIPS.snags + STRIPS.wave + 6;
