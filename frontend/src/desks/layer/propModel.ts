// The props of a shot and the hands that hold them, as changes of the shot. Pure.
import { pathOf } from "../../api/changes";
import type { Change, Schemas } from "../../api/client";
import type { StandEdge, StandRow, StandSpan } from "../../timekit/tracks/stands";
import { nameOfRole, rolesOf, type ShotState } from "../../workspace/state";

export type Prop = Schemas["PropEntry"];
export type Hand = Schemas["HoldEntry"];
export const SIDES = { Left: "left hand", Right: "right hand" } as const;
const NEW = 1; // second that a hold lasts which is added
const NEARLY = 0.02; // metres that a hand may stay away from a prop before it is said

/** The props by how they were brought. */
export const propsOf = (shot: ShotState): [string, Prop][] =>
  Object.entries(shot.opened.shot.body.props).sort(([a, p], [b, q]) => p.rank - q.rank || (a < b ? -1 : 1));

/** The holds of a prop by when they begin. */
export const holdsOf = (prop: Prop): [string, Hand][] =>
  Object.entries(prop.holds).sort(([a, p], [b, q]) => p.first - q.first || (a < b ? -1 : 1));

/** Whose hand it is, in words. */
export const handOf = (shot: ShotState, hold: Hand): string =>
  hold.role in shot.opened.shot.body.roles
    ? `${nameOfRole(shot, hold.role)}, ${SIDES[hold.side]}`
    : `nobody, ${SIDES[hold.side]}`;

/** A hold with one edge at a frame, the other as it is; a frame lasts it at least. */
export function holdWithEdge(hold: Hand, edge: StandEdge, frame: number): Hand {
  const at = Math.max(0, Math.round(frame));
  return edge === "first" ? { ...hold, first: Math.min(at, hold.last) } : { ...hold, last: Math.max(at, hold.first) };
}

export const holdPath = (prop: string, key: string, ...more: string[]) => pathOf("props", prop, "holds", key, ...more);

/** The changes that put a hold's edges where they are by now. */
export const edgesOf = (prop: string, key: string, { first, last }: Hand): Change[] => [
  { path: holdPath(prop, key, "first"), value: first },
  { path: holdPath(prop, key, "last"), value: last },
];

/** One more hold from a frame on, by a hand that holds nothing of it then; the role that is worked on comes first. */
export function newHold(shot: ShotState, prop: Prop, frame: number, fps: number): Hand | null {
  const { role } = shot;
  const roles = [role, ...rolesOf(shot).filter((r) => r !== role)].filter(Boolean);
  const last = frame + Math.max(1, Math.round(NEW * fps)) - 1;
  const busy = (r: string, side: string) =>
    Object.values(prop.holds).some((h) => h.role === r && h.side === side && h.first <= last && h.last >= frame);
  for (const r of roles)
    for (const side of ["Right", "Left"] as const)
      if (!busy(r, side)) return { role: r, side, first: frame, last, at: [0, 0, 0], closed: 0.8 };
  return null;
}

/** By how much a hand stays away from what it is to hold, in words; "" where it does not. */
export function fallsShort(short: number | null | undefined): string {
  if (short === null) return "this character has no such hand";
  return short !== undefined && short > NEARLY ? `stays ${Math.round(short * 100)} cm away from it` : "";
}

/** What the deck draws: a bar a hold, a row for each hand that is on a prop at once; dragged: as one is by now; props: of each row. */
export function holdRows(
  shot: ShotState,
  dragged: { prop: string; key: string; now: Hand } | null,
): { rows: StandRow[]; spans: StandSpan[]; props: string[] } {
  const rows: StandRow[] = [];
  const spans: StandSpan[] = [];
  const props: string[] = [];
  for (const [name, prop] of propsOf(shot)) {
    const ends: number[] = []; // of each of its rows, where the last hold in it ends as it is stored
    const begins = rows.length;
    for (const [key, held] of holdsOf(prop)) {
      const free = ends.findIndex((end) => end < held.first);
      const row = free < 0 ? ends.length : free;
      ends[row] = held.last;
      const hold = dragged?.prop === name && dragged.key === key ? dragged.now : held;
      const word = handOf(shot, hold);
      spans.push({ key: `${name} ${key}`, row: begins + row, first: hold.first, last: hold.last, byHand: false, word });
    }
    for (let row = 0; row < Math.max(ends.length, 1); row++) {
      rows.push({ word: prop.name, does: "is held", held: true });
      props.push(name);
    }
  }
  return { rows, spans, props };
}
