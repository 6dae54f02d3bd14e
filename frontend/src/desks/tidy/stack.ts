// The tidy stack as the document holds it, and the changes that move its steps about. Pure.
import type { Change, ParameterInfo, StepInfo } from "../../api/client";

export type Step = { step: string; on: boolean } & Record<string, unknown>;
export type Tidy = { order: string[]; steps: Record<string, Step> };

export function valuesOf(step: Step, parameters: ParameterInfo[]): Record<string, unknown> {
  return Object.fromEntries(parameters.map((p) => [p.name, step[p.name] ?? (p.kind.startsWith("per_") ? {} : p.default)]));
}

/** The stack with some of a step's values replaced: what a drag shows. */
export function withValues(tidy: Tidy, key: string, values: Record<string, unknown>): Tidy {
  return { ...tidy, steps: { ...tidy.steps, [key]: { ...tidy.steps[key]!, ...values } as Step } };
}

export function moved(tidy: Tidy, key: string, by: number): Change[] {
  const order = [...tidy.order];
  const from = order.indexOf(key);
  const to = Math.min(Math.max(from + by, 1), order.length - 1);
  order.splice(to, 0, ...order.splice(from, 1));
  return from === to ? [] : [{ path: "tidy/order", value: order }];
}

export function added(tidy: Tidy, info: StepInfo): { key: string; changes: Change[] } {
  const stem = info.name.split(" ")[0]!;
  let number = 2;
  let key = stem;
  while (tidy.steps[key]) key = `${stem}${number++}`;
  const places = info.regions.length ? { places: [{ regions: info.regions, channels: [], first: null, last: null }] } : {};
  return { key, changes: [{ path: `tidy/steps/${key}`, value: { step: info.name, on: true, ...places } }, { path: "tidy/order", value: [...tidy.order, key] }] };
}

export function removed(tidy: Tidy, key: string): Change[] {
  return [{ path: "tidy/order", value: tidy.order.filter((k) => k !== key) }, { path: `tidy/steps/${key}`, remove: true }];
}

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
