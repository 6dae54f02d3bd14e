// Steps of a stack as documents hold them: their order, their values, and the ranks between which one goes. Pure.
import type { ParameterInfo } from "../api/client";

type Ranked = Record<string, { rank: number }>;

/** Ids of the steps, first to last; ids decide between equal ranks, as on the server. */
export const orderOfSteps = (steps: Ranked): string[] =>
  Object.keys(steps).sort((a, b) => steps[a]!.rank - steps[b]!.rank || (a < b ? -1 : 1));

export const rankAfter = (steps: Ranked): number => Math.max(0, ...Object.values(steps).map((s) => s.rank)) + 1;

/** The rank of a step that goes past its neighbour, never before the one numbered `least`; null where it stays. */
export function rankPast(steps: Ranked, key: string, by: -1 | 1, least: number): number | null {
  const order = orderOfSteps(steps);
  const to = order.indexOf(key) + by;
  if (to < least || to >= order.length) return null;
  const rank = (index: number) => steps[order[index]!]!.rank;
  const beyond = to + by;
  if (beyond >= order.length) return rank(to) + 1;
  return beyond < 0 ? rank(to) - 1 : (rank(to) + rank(beyond)) / 2;
}

export const valuesOf = (step: Record<string, unknown>, parameters: ParameterInfo[]): Record<string, unknown> =>
  Object.fromEntries(parameters.map((p) => [p.name, step[p.name] ?? (p.kind.startsWith("per_") ? {} : p.default)]));
