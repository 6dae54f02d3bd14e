// What a session holds, and what it is given.
import type { Answers, LayerDoc, Opened, OpenedShot, Problem } from "../api/client";
import type { Table } from "../api/bundle";
import type { Rig } from "./rig";
import { NOTHING_SHOWN, type Body, type PropWays, type Shown } from "./tables";

export type Companion = "layout" | "dots" | "card" | "measures";
/** A shot that is open. role: whose curves are shown; layer: what keys, spans and grabs land in. bodies: how each role moves;
 * takes: what each clip's take gives now, by clip. */
export type ShotState = {
  opened: OpenedShot;
  role: string;
  layer: string | null;
  bodies: Record<string, Body | null>;
  /** Where its props go, as the role that was worked out last has it. */
  props: PropWays | null;
  takes: Record<string, string>;
  /** Keys of layers are shown held until the next, for blocking; nothing that is stored changes. */
  stepped: boolean;
  /** The rig of the role's character, once a touch-up layer was opened. */
  rig: Rig | null;
};
export type SessionState = Shown & {
  opened: Opened | null;
  shot: ShotState | null;
  /** Rises with each new set of curves or weights. */
  revision: number;
  /** Another solve of the same footage or another take that the deck compares with, frame by frame of this one. */
  against: { source: string; name: string; raw: Table } | null;
  saving: number;
  /** The documents that are worked on beside the take: a marker layout, dots, a performer card. */
  companions: Partial<Record<Companion, string>>;
  /** Weights set by hand to try the rig, by target; they are not stored. */
  tried: Record<string, number>;
};
export const NOTHING_OPEN: SessionState = {
  opened: null,
  shot: null,
  ...NOTHING_SHOWN,
  revision: 0,
  against: null,
  saving: 0,
  companions: {},
  tried: {},
};

/** Time and sound of what is open. */
export type Player = {
  load: (seconds: number, fps: number, keep?: boolean) => void;
  setSound: (raw: ArrayBuffer | null) => Promise<void>;
  setSoundOffset: (seconds: number) => void;
  seekFrame: (frame: number) => void;
};
export type Server = Pick<
  Answers,
  | "openTake"
  | "evaluate"
  | "edit"
  | "undo"
  | "redo"
  | "media"
  | "solves"
  | "alignedTake"
  | "editKeys"
  | "editLayerKeys"
  | "snags"
  | "mend"
  | "bodySnags"
  | "mendBody"
  | "roleSnags"
  | "mendRole"
  | "openShot"
  | "evaluateRole"
  | "cutShot"
  | "newLayer"
  | "rigOfRole"
  | "shotSound"
>;
/** What a session is given: who answers, what plays, who hears of problems, undone labels and a changed history. */
export type Surroundings = {
  server: Server;
  player: Player;
  notify: (about: Problem | { kind: "info"; message: string }) => void;
  historyChanged: () => void;
};

/** The layers of a role from the top down, touch-up layers above the others; those that are put away left out. */
export const layersOf = (shot: ShotState, role: string): LayerDoc[] =>
  shot.opened.layers
    .filter((l) => l.body.role === role && !l.body.archived)
    .sort(
      (a, b) =>
        Number(!!b.body.character) - Number(!!a.body.character) || b.body.rank - a.body.rank || (a.id < b.id ? 1 : -1),
    );
/** Those of them that lie on the performance, beneath the cast sheet. */
export const faceLayersOf = (shot: ShotState, role: string): LayerDoc[] =>
  layersOf(shot, role).filter((l) => !l.body.character);
/** Keys of the roles in their order. */
export const rolesOf = (shot: ShotState): string[] => {
  const { roles } = shot.opened.shot.body;
  return Object.keys(roles).sort((a, b) => roles[a]!.rank - roles[b]!.rank || (a < b ? -1 : 1));
};
/** Whether hands of roles hold a prop: then what one does can move the arm of another. */
export const handsHold = (shot: ShotState): boolean =>
  Object.values(shot.opened.shot.body.props).some((prop) => Object.keys(prop.holds).length > 0);
/** The name under which a role is shown: its character's, with the performer where two have the same. */
export function nameOfRole(shot: ShotState, key: string): string {
  const { roles } = shot.opened.shot.body;
  const role = roles[key];
  const name = shot.opened.characters.find((c) => c.id === role?.character)?.body.name;
  if (!name) return role?.performer ?? "";
  const alike = Object.values(roles).filter((r) => r.character === role!.character).length > 1;
  return alike ? `${name} (${role!.performer})` : name;
}
