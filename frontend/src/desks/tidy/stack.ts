// The tidy stack as the document holds it, and the changes that move its steps about. Pure.
import { freshId } from "../../api/changes";
import type { Change, ParameterInfo, StepInfo, Tidy, TidyStep } from "../../api/client";

export type Step = TidyStep;

/** Ids of the steps, first to last; ids decide between equal ranks, as on the server. */
export const orderOf = ({ steps }: Tidy): string[] =>
  Object.keys(steps).sort((a, b) => steps[a]!.rank - steps[b]!.rank || (a < b ? -1 : 1));

export function valuesOf(step: Step, parameters: ParameterInfo[]): Record<string, unknown> {
  return Object.fromEntries(
    parameters.map((p) => [p.name, step[p.name] ?? (p.kind.startsWith("per_") ? {} : p.default)]),
  );
}

/** Changes that give a step some values: what a drag shows, and what is kept of it. */
export const valueChanges = (key: string, values: Record<string, unknown>): Change[] =>
  Object.entries(values).map(([name, value]) => ({ path: `tidy/steps/${key}/${name}`, value }));

/** A step goes between others: past its neighbour, never before the first. */
export function moved(tidy: Tidy, key: string, by: -1 | 1): Change[] {
  const order = orderOf(tidy);
  const to = order.indexOf(key) + by;
  if (to < 1 || to >= order.length) return [];
  const rank = (index: number) => tidy.steps[order[index]!]!.rank;
  const beyond = to + by;
  const value = beyond >= order.length ? rank(to) + 1 : (rank(to) + rank(beyond)) / 2;
  return [{ path: `tidy/steps/${key}/rank`, value }];
}

export function added(tidy: Tidy, info: StepInfo): { key: string; changes: Change[] } {
  const key = freshId(info.name.split(" ")[0]!);
  const rank = Math.max(...Object.values(tidy.steps).map((s) => s.rank)) + 1;
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
