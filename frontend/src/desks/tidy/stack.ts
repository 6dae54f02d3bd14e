// The tidy stack as the document holds it, and the changes that move its steps about. Pure.
import { freshId } from "../../api/changes";
import type { Change, StepInfo, Tidy, TidyStep } from "../../api/client";
import { orderOfSteps, rankAfter, rankPast } from "../../drawer/steps";

export type Step = TidyStep;

export const orderOf = ({ steps }: Tidy): string[] => orderOfSteps(steps);

/** Changes that give a step some values: what a drag shows, and what is kept of it. */
export const valueChanges = (key: string, values: Record<string, unknown>): Change[] =>
  Object.entries(values).map(([name, value]) => ({ path: `tidy/steps/${key}/${name}`, value }));

/** A step goes between others: past its neighbour, never before the first. */
export function moved(tidy: Tidy, key: string, by: -1 | 1): Change[] {
  const value = rankPast(tidy.steps, key, by, 1);
  return value === null ? [] : [{ path: `tidy/steps/${key}/rank`, value }];
}

export function added(tidy: Tidy, info: StepInfo): { key: string; changes: Change[] } {
  const key = freshId(info.name.split(" ")[0]!);
  const rank = rankAfter(tidy.steps);
  const places = info.regions.length
    ? { places: [{ regions: info.regions, channels: [], first: null, last: null }] }
    : {};
  return { key, changes: [{ path: `tidy/steps/${key}`, value: { step: info.name, on: true, rank, ...places } }] };
}

export const removed = (key: string): Change[] => [{ path: `tidy/steps/${key}`, remove: true }];

export type Place = { channels?: string[]; regions?: string[]; first?: number | null; last?: number | null };

export const placesOf = (step: Step): Place[] => (step.places ?? []) as Place[];

/** Where a step acts, in a few words. */
export function whereOf(step: Step): string {
  const places = placesOf(step);
  if (!places.length) return "";
  if (places.length > 1) return `${places.length} places`;
  const { channels = [], regions = [], first = null, last = null } = places[0]!;
  const names = [...regions, ...channels];
  const what = names.length > 2 ? `${names.length} channels` : names.join(", ");
  const when = first === null && last === null ? "" : `${first ?? "start"} to ${last ?? "end"}`;
  return [what, when].filter(Boolean).join(", ");
}
