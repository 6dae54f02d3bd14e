// What the match view works out: where joints are drawn, which want a look, and the changes that a match makes.
import { pathOf } from "../api/changes";
import type { Change, Schemas } from "../api/client";

export type Part = "body" | "hands";
/** part: of the take, whose skeleton is matched. */
export type Report = Schemas["MatchReport"] & { part: Part };
/** Where a join keeps what is said of a part by hand. */
export const FIELDS = {
  body: { matches: "matches", turns: "turns" },
  hands: { matches: "handsMatches", turns: "handsTurns" },
} as const;
export type Joint = Schemas["Joint"];
export type Whose = "body" | "character";
/** How both skeletons are looked at: degrees about up and about the level, how near, and pixels aside. */
export type Look = { yaw: number; pitch: number; zoom: number; x: number; y: number };
export type Place = { x: number; y: number; depth: number };
export type Frame = { x: number; y: number; width: number; height: number };
export const DOUBTFUL = 0.6;
/** Pixels around each skeleton. */
export const MARGIN = 34;
export const PLAIN_LOOK: Look = { yaw: 0, pitch: 0, zoom: 1, x: 0, y: 0 };

/** What is looked at from near: the joints from one part down, on one side, and from how far above. */
export const NEAR: Record<string, { word: string; part: string; side: string; pitch: number }> = {
  whole: { word: "Whole", part: "", side: "", pitch: 0 },
  leftHand: { word: "Left hand", part: "hand", side: "L", pitch: 75 },
  rightHand: { word: "Right hand", part: "hand", side: "R", pitch: 75 },
  spine: { word: "Trunk", part: "spine", side: "", pitch: 0 },
  leftFoot: { word: "Left foot", part: "lowerleg", side: "L", pitch: 0 },
  rightFoot: { word: "Right foot", part: "lowerleg", side: "R", pitch: 0 },
};

/** Indices of the joints that are looked at: a part and what hangs on it, all where there is no such part. */
export function lookedAt(joints: Joint[], near: string): number[] {
  const { part, side } = NEAR[near] ?? NEAR.whole!;
  const all = joints.map((_, i) => i);
  if (!part) return all;
  const inside = new Set<number>();
  joints.forEach((j, i) => {
    if ((j.part === part && j.side === side) || (part !== "spine" && inside.has(j.parent))) inside.add(i);
  });
  return inside.size > 1 ? [...inside] : all;
}

/** Where joints are drawn in a frame of the view, so that those that are looked at fill it. */
export function projected(joints: Joint[], near: string, look: Look, frame: Frame): Place[] {
  const [sinYaw, cosYaw] = [Math.sin((look.yaw * Math.PI) / 180), Math.cos((look.yaw * Math.PI) / 180)];
  const [sinPitch, cosPitch] = [Math.sin((look.pitch * Math.PI) / 180), Math.cos((look.pitch * Math.PI) / 180)];
  const turned = joints.map(({ at: [x, y, z] }) => {
    const aside = x * cosYaw + z * sinYaw;
    const ahead = z * cosYaw - x * sinYaw;
    return { x: aside, y: y * cosPitch - ahead * sinPitch, depth: ahead * cosPitch + y * sinPitch };
  });
  const seen = lookedAt(joints, near).map((i) => turned[i]!);
  const middle = (low: number, high: number) => (low + high) / 2;
  const span = (values: number[]) => [Math.min(...values), Math.max(...values)] as const;
  const [left, right] = span(seen.map((p) => p.x));
  const [low, high] = span(seen.map((p) => p.y));
  const scale =
    look.zoom * Math.min(frame.width / Math.max(right - left, 1e-6), frame.height / Math.max(high - low, 1e-6));
  return turned.map((p) => ({
    x: frame.x + frame.width / 2 + look.x + scale * (p.x - middle(left, right)),
    y: frame.y + frame.height / 2 + look.y - scale * (p.y - middle(low, high)),
    depth: p.depth,
  }));
}

/** Places with what hangs on a joint swung about it, by degrees clockwise on the screen. */
export function swung(joints: Joint[], places: Place[], joint: number, degrees: number): Place[] {
  const inside = new Set([joint]);
  joints.forEach((j, i) => inside.has(j.parent) && inside.add(i));
  const [sin, cos] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)];
  const { x, y } = places[joint]!;
  return places.map((p, i) =>
    inside.has(i) ? { ...p, x: x + (p.x - x) * cos - (p.y - y) * sin, y: y + (p.x - x) * sin + (p.y - y) * cos } : p,
  );
}

/** The place nearest to a point, within so many pixels; -1 for none. What lies nearer to the eye wins among equals. */
export function nearestPlace(places: Place[], x: number, y: number, within: number): number {
  let best = -1;
  let least = within;
  places.forEach((p, i) => {
    const far = Math.hypot(p.x - x, p.y - y) - 1e-3 * p.depth;
    if (far < least) [best, least] = [i, far];
  });
  return best;
}

/** The joint that another is matched to; of a joint of the body the first of the character. */
export function partner(report: Report, whose: Whose, name: string): string {
  if (whose === "character") return report.matches[name] ?? "";
  return Object.keys(report.matches).find((ours) => report.matches[ours] === name) ?? "";
}

const LIMBS = ["upperarm", "lowerarm", "upperleg", "lowerleg"];

/** Arms and legs that lie otherwise at rest than the body's, by more than so many degrees, the farthest first. */
export const otherwise = (report: Report, degrees: number): [string, number][] =>
  report.character
    .filter((j) => LIMBS.includes(j.part) && (report.differences[j.name] ?? 0) > degrees)
    .map((j): [string, number] => [j.name, report.differences[j.name]!])
    .sort((a, b) => b[1] - a[1]);

export type State = "unmatched" | "doubtful" | "doubled" | "shared" | "matched";
export const STATE_WORDS: Record<State, string> = {
  unmatched: "follows its parent",
  doubtful: "doubtful",
  doubled: "moved by the same as another",
  shared: "shares a turn",
  matched: "",
};

/** How each joint of the character stands; a joint of a chain that shares its turn is no double. */
export function states(report: Report): Record<string, State> {
  const used = new Map<string, number>();
  const shared = new Set(report.shared);
  for (const [ours, theirs] of Object.entries(report.matches))
    if (!shared.has(ours)) used.set(theirs, (used.get(theirs) ?? 0) + 1);
  return Object.fromEntries(
    report.character.map(({ name }) => {
      const theirs = report.matches[name];
      if (!theirs) return [name, "unmatched"];
      if (!shared.has(name) && used.get(theirs)! > 1) return [name, "doubled"];
      if ((report.confidence[name] ?? 1) < DOUBTFUL) return [name, "doubtful"];
      return [name, shared.has(name) ? "shared" : "matched"];
    }),
  );
}

const ORDER: State[] = ["doubled", "doubtful", "unmatched", "shared", "matched"];

/** The joints that a match is about: of hands only those of hands. */
export const concerned = (report: Report): Joint[] =>
  report.part === "body"
    ? report.character
    : report.character.filter((j) => j.part === "hand" || j.part.startsWith("finger"));

/** Joints of the character, those that want a look first; one that is alone wants none where the body has no such part. */
export function inOrder(report: Report): { look: Joint[]; rest: Joint[] } {
  const state = states(report);
  const had = new Set(report.body.map((j) => j.part + j.side));
  const wants = (j: Joint) => {
    const s = state[j.name]!;
    return (
      s === "doubled" ||
      s === "doubtful" ||
      (s === "unmatched" && ((!!j.part && had.has(j.part + j.side)) || report.own.includes(j.name)))
    );
  };
  const listed = concerned(report);
  const look = listed.filter(wants);
  look.sort((a, b) => ORDER.indexOf(state[a.name]!) - ORDER.indexOf(state[b.name]!));
  return { look, rest: listed.filter((j) => !wants(j)) };
}

/** Whether a joint's rest is turned by hand: of hands only that of fingers, since wrists stay the body's. */
export const turnable = (report: Report, name: string): boolean =>
  report.part === "body" || !!report.character.find((j) => j.name === name)?.part.startsWith("finger");

const twin = (joints: Joint[], name: string) => joints.find((j) => j.name === name)?.twin ?? "";

/** The changes with which a joint of the character follows one of the body, "" for its parent; with both sides, the other side too. */
export function matching(report: Report, ours: string, theirs: string, both: boolean): Change[] {
  const field = FIELDS[report.part].matches;
  const changes = [{ path: pathOf(field, ours), value: theirs }];
  const [other, otherTheirs] = [twin(report.character, ours), theirs && twin(report.body, theirs)];
  if (both && other && (!theirs || otherTheirs)) changes.push({ path: pathOf(field, other), value: otherTheirs });
  return changes;
}

/** The changes with which a joint's rest is turned by degrees about left, up and ahead; the other side the other way round. */
export function turning(report: Report, ours: string, degrees: number[], both: boolean): Change[] {
  const [x = 0, y = 0, z = 0] = degrees;
  const field = FIELDS[report.part].turns;
  const changes: Change[] = [{ path: pathOf(field, ours), value: [x, y, z] }];
  const other = twin(report.character, ours);
  if (both && other) changes.push({ path: pathOf(field, other), value: [x, -y, -z].map((v) => v || 0) });
  return changes;
}
