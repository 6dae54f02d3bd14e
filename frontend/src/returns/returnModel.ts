// What came back and is different, as people read it. Pure.
import type { Job } from "../api/client";

/** Of one weight, channel, turn or place. runs: frames of the shot, first and last of each. */
export type Difference = {
  part: "weight" | "channel" | "turn" | "place";
  of: string;
  most: number;
  unit: string;
  runs: [number, number][];
  frames: number;
};
/** Of one character in one file. layer: what holds the differences, "" for none; left: what the character still shows otherwise. */
export type ReturnedRow = {
  file: string;
  ok: boolean;
  said: string;
  of?: string;
  putRight?: string[];
  unknown?: string[];
  absent?: string[];
  layer?: string;
  face?: boolean;
  shot?: string;
  role?: string;
  begun?: boolean;
  changed?: boolean;
  differences?: Difference[];
  left?: string[];
};

export const ENDINGS = ".glb,.usdc,.usda,.bvh,.csv";
const SHOWN_RUNS = 3;

export const rowsOf = (job: Job): ReturnedRow[] => (job.result.returns ?? []) as ReturnedRow[];

const counted = (n: number, one: string, more = `${one}s`) => `${n} ${n === 1 ? one : more}`;

/** How many of what are different: "3 shapes, 1 joint". */
export function summary(differences: Difference[]): string {
  const joints = new Set(differences.filter((d) => d.part === "turn" || d.part === "place").map((d) => d.of));
  const parts = [
    [differences.filter((d) => d.part === "weight").length, "shape"],
    [differences.filter((d) => d.part === "channel").length, "channel"],
    [joints.size, "joint"],
  ] as const;
  return parts
    .filter(([n]) => n > 0)
    .map(([n, one]) => counted(n, one))
    .join(", ");
}

const HOW = { weight: "", channel: "", turn: "turned", place: "moved" } as const;

/** "jawOpen by 0.3", "head turned by 12 degrees". */
export function wordsOf({ part, of, most, unit }: Difference): string {
  const much = unit === "mm" || unit === "degrees" ? most.toFixed(1) : most.toFixed(2);
  return [of, HOW[part], `by ${much}`, unit].filter(Boolean).join(" ");
}

/** "frames 12 to 20, 31 to 40 and 3 more stretches". */
export function framesOf(runs: [number, number][]): string {
  const shown = runs.slice(0, SHOWN_RUNS).map(([a, b]) => (a === b ? `${a}` : `${a} to ${b}`));
  const more = runs.length - shown.length;
  return `frames ${shown.join(", ")}${more > 0 ? ` and ${counted(more, "more stretch", "more stretches")}` : ""}`;
}

/** Those that change the most first: joints by degrees, shapes by weight. */
export const inOrder = (differences: Difference[]): Difference[] =>
  [...differences].sort((a, b) => b.frames * size(b) - a.frames * size(a) || a.of.localeCompare(b.of));
const size = ({ most, unit }: Difference) => (unit === "degrees" ? most / 30 : unit === "mm" ? most / 100 : most);

/** A list of names, cut short. */
export const named = (names: string[], shown = 6): string =>
  names.length > shown ? `${names.slice(0, shown).join(", ")} and ${names.length - shown} more` : names.join(", ");
