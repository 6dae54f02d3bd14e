// How joints that are looked at turn, and how high they are: a lane each in the deck.
import { colourOf, type Region } from "../shared/regions";
import { extent } from "../timekit/decimate";
import { curveTrack, type Curve } from "../timekit/tracks/curves";
import { NO_KEYS } from "../timekit/tracks/keys";
import type { Track } from "../timekit/track";
import { rangeOf } from "../timekit/valueAxis";
import type { JointCurves } from "../workspace/tables";
import type { Watched } from "../workspace/watched";
import type { Pyramids } from "./deckModel";

const TALL = 58; // pixels
const WORD_TOP = 2;
/** Colours of the axes, those of regions far apart; a second joint is dashed. */
const COLOURS: Record<string, Region> = { x: "lips", y: "head", z: "lids" };

/** The curves of a look of all joints that have it. */
export function jointLines(
  { columns, table }: JointCurves,
  watched: Watched,
  look: "turn" | "height",
  light: boolean,
  kept: Pyramids,
): Curve[] {
  const joints = Object.keys(watched).filter((joint) => watched[joint]!.includes(look));
  return joints.flatMap((joint, number) =>
    (look === "turn" ? ["y", "x", "z"] : ["y"]).flatMap((axis) => {
      const column = columns.indexOf(`joint ${joint} ${look === "turn" ? "turn" : "at"} ${axis}`);
      if (column < 0) return [];
      const line = kept.get("joints", table.data, columns.length, column);
      const name = look === "turn" ? `${joint} turn ${axis}` : `height of ${joint}`;
      const colour = colourOf(look === "turn" ? COLOURS[axis]! : "head", light);
      return [{ name, region: "extra", colour, dashed: number % 2 === 1, scale: 1, tidied: line, raw: line }];
    }),
  );
}

/** Lanes of the looks that any joint has. */
export function jointLanes(given: JointCurves | null, watched: Watched, light: boolean, kept: Pyramids): Track[] {
  if (!given) return [];
  return (["turn", "height"] as const).flatMap((look) => {
    const curves = jointLines(given, watched, look, light, kept);
    return curves.length ? [lane(look, curves)] : [];
  });
}

function lane(look: "turn" | "height", curves: Curve[]): Track {
  const spans = curves.map((c) => extent(c.tidied));
  const range = rangeOf(
    spans.map((s) => s.low),
    spans.map((s) => s.high),
    false,
  );
  const plain = curveTrack({ curves, range, comparing: false, rawName: "", keys: () => NO_KEYS });
  const joints = [...new Set(curves.map((c) => c.name.replace(/^height of | turn [xyz]$/g, "")))].join(", ");
  const word = look === "turn" ? `degrees: ${joints}` : `metres up: ${joints}`;
  return {
    id: `joints ${look}`,
    height: TALL,
    draw: (stage, band) => {
      plain.draw(stage, band);
      const { context: c, palette, width } = stage;
      c.fillStyle = palette.dim;
      c.textBaseline = "top";
      c.textAlign = "right";
      c.fillText(word, width - 6, band.top + WORD_TOP);
      c.textAlign = "left";
    },
    say: (stage, band, at) => plain.say?.(stage, band, at)?.replace(/ {2}\(.*?\)/, "") ?? null,
  };
}
