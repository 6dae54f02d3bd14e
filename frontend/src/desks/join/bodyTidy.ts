// The steps for a body as its join holds them, and the changes that add, move and place them. Pure.
import { freshId, pathOf } from "../../api/changes";
import type { BodyStepInfo, Change, JoinDoc } from "../../api/client";
import { rankAfter, rankPast } from "../../drawer/steps";
import { groupWords } from "../../shared/bodyGroups";

export type BodySteps = JoinDoc["body"]["tidy"];
export type BodyStep = BodySteps[string];
/** Where the frames of a take lie in its body: the second of the body at the take's first frame, frames a second. */
export type BodyClock = { begins: number; rate: number };

export function addedStep(steps: BodySteps, info: BodyStepInfo): { key: string; changes: Change[] } {
  const key = freshId(info.name.split(" ")[0]!);
  return {
    key,
    changes: [{ path: pathOf("tidy", key), value: { step: info.name, on: true, rank: rankAfter(steps) } }],
  };
}

export function movedStep(steps: BodySteps, key: string, by: -1 | 1): Change[] {
  const value = rankPast(steps, key, by, 0);
  return value === null ? [] : [{ path: pathOf("tidy", key, "rank"), value }];
}

export const stepValues = (key: string, values: Record<string, unknown>): Change[] =>
  Object.entries(values).map(([name, value]) => ({ path: pathOf("tidy", key, name), value }));

/** A group in or out; with all of them in, none is named. */
export function groupsWith(groups: string[], group: string, all: string[]): string[] {
  const next = groups.includes(group) ? groups.filter((g) => g !== group) : [...groups, group];
  return next.length === all.length ? [] : all.filter((g) => next.includes(g));
}

const round = (seconds: number) => Math.round(seconds * 1e4) / 1e4;

/** A range of frames of the take in seconds of its body; both null for the whole body. */
export const placeOf = (range: { from: number; to: number } | null, { begins, rate }: BodyClock) => ({
  first: range && round(Math.max(begins + range.from / rate, 0)),
  last: range && round(Math.max(begins + range.to / rate, 0)),
});

/** What a step acts on and where, in a few words. */
export function stepWords(step: BodyStep, { begins, rate }: BodyClock): string {
  const frame = (second: number) => Math.round((second - begins) * rate);
  const when =
    step.first === null && step.last === null
      ? ""
      : `frames ${step.first === null ? "start" : frame(step.first)} to ${step.last === null ? "end" : frame(step.last)}`;
  return [groupWords(step.groups), when].filter(Boolean).join(", ");
}
