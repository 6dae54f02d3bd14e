// What is done to the spans in which feet stand and hands touch, as changes of the join.
import { pathOf } from "../api/changes";
import type { Change, Schemas } from "../api/client";
import type { StandEdge } from "../timekit/tracks/stands";

export type Stand = Schemas["Stands"];
export type SetContact = Schemas["ContactEntry"];
export type Contacts = Record<string, SetContact>;
/** begins: seconds of the body at which the take begins; rate: frames a second of the take. */
export type Clock = { begins: number; rate: number };
/** What has a row in the deck; by: the switch of the join that lets it be held on the character. */
export const ROWS = [
  { side: "Left", word: "left foot", does: "stands", by: "feet" },
  { side: "Right", word: "right foot", does: "stands", by: "feet" },
  { side: "LeftHand", word: "left hand", does: "is on the head", by: "touch" },
  { side: "RightHand", word: "right hand", does: "is on the head", by: "touch" },
  { side: "Hands", word: "hands", does: "touch each other", by: "touch" },
] as const;
export const LEAST = 2; // frames that a span lasts at least
const NEW = 0.3; // seconds of one that is added

export const rowOf = (side: Stand["side"]): number => ROWS.findIndex((row) => row.side === side);

/** What a span is known by: its id, or for one that was found its side and place. */
export const keyOf = (stand: Stand): string => stand.key || `${stand.side} ${stand.first}`;

/** Whether two are one span under different keys: of one side, and at one time. */
export const sameSpan = (a: Stand, b: Stand): boolean => a.side === b.side && a.first <= b.last && a.last >= b.first;

const seconds = (frame: number, { begins, rate }: Clock) =>
  Math.max(0, Math.round((begins + frame / rate) * 10000) / 10000);

/** A span with one edge at a frame, the other as it is. */
export function withEdge(stand: Stand, edge: StandEdge, frame: number): Stand {
  return edge === "first"
    ? { ...stand, first: Math.min(frame, stand.last - LEAST) }
    : { ...stand, last: Math.max(frame, stand.first + LEAST) };
}

/** The span as it is now, set by hand under an id; was: as it was before. */
export function setting(now: Stand, was: Stand, id: string, contacts: Contacts, clock: Clock): Change {
  const own = contacts[was.key];
  const over = own ? own.over : ([seconds(was.first, clock), seconds(was.last, clock)] as [number, number]);
  const value = {
    side: now.side,
    first: seconds(now.first, clock),
    last: seconds(now.last, clock),
    stands: true,
    over,
  };
  return { path: pathOf("contacts", id), value };
}

/** One more span about a frame. */
export function adding(row: number, frame: number, id: string, clock: Clock): Change {
  const half = (NEW * clock.rate) / 2;
  const [first, last] = [seconds(Math.max(frame - half, 0), clock), seconds(frame + half, clock)];
  return { path: pathOf("contacts", id), value: { side: ROWS[row]!.side, first, last, stands: true, over: null } };
}

/** The span gone: one that was added by hand as if it had never been, what was found by saying that it is none. */
export function removing(stand: Stand, id: string, contacts: Contacts, clock: Clock): Change {
  const own = contacts[stand.key];
  if (own && !own.over) return { path: pathOf("contacts", stand.key), remove: true };
  const gone = setting(stand, stand, id, contacts, clock);
  return { path: gone.path, value: { ...(gone.value as SetContact), stands: false } };
}

/** The span as it was found, or not there where it was added. */
export const asFound = (stand: Stand): Change => ({ path: pathOf("contacts", stand.key), remove: true });
