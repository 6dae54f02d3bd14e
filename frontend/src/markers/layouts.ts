// The marker layout of the open take: which one is chosen, what it places, and its changes.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";
import { create } from "zustand";
import { leafChanges } from "../api/changes";
import { api, type ChartPlace, type LayoutDoc, type LayoutStudy } from "../api/client";
import { notify } from "../shared/notices";
import { onHistory, tellHistory, setCompanion, useSession } from "../workspace/workspace";

/** A channel as the distance of two markers, dots or places: 0 at rest millimetres (null: as in the neutral face), 1 at reach more. */
export type Drives = LayoutDoc["body"]["drives"];
export type Drive = Drives[string];
export type LayoutBody = LayoutDoc["body"];
type State = { chosen: Record<string, string>; selected: string | null; still: boolean };

/** chosen: layout by take, where it is not the performer's newest; selected: label of a marker; still: the head's motion is taken out. */
export const useMarkers = create<State>(() => ({ chosen: {}, selected: null, still: false }));

/** The layout that a take is solved with: the chosen one, else the performer's newest. */
export function layoutFor<D extends { id: string; body: { performer: string } }>(
  layouts: D[],
  performer: string,
  chosen: string | undefined,
): D | null {
  return layouts.find((l) => l.id === chosen) ?? layouts.filter((l) => l.body.performer === performer).pop() ?? null;
}

type Held = {
  layouts: LayoutDoc[];
  layout: LayoutDoc | null;
  body: LayoutBody | null;
  study: LayoutStudy | null;
  doubt: string;
  chart: ChartPlace[];
};

export function useLayout(): Held {
  const { production = "" } = useParams();
  const client = useQueryClient();
  const take = useSession((s) => (s.opened?.sources.markers ? s.opened.take : null));
  const chosen = useMarkers((s) => (take ? s.chosen[take.id] : undefined));
  const layouts =
    useQuery({ queryKey: ["layouts", production], queryFn: () => api.layouts(production), enabled: !!take }).data ?? [];
  const layout = take ? layoutFor(layouts, take.body.performer, chosen) : null;
  const study = useQuery({
    queryKey: ["layout study", layout?.id, layout?.version],
    queryFn: () => api.studyLayout(layout!.id),
    enabled: !!layout,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const chart = useQuery({ queryKey: ["chart"], queryFn: api.chart, staleTime: Infinity, enabled: !!take }).data ?? [];
  useEffect(() => setCompanion("layout", layout?.id), [layout?.id, take]);
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["layouts"] })), [client]);
  return {
    layouts,
    layout,
    body: layout && layout.body,
    study: study.data?.rotation.length ? study.data : null,
    doubt: study.data?.problem ?? "",
    chart,
  };
}

type Worked = { id: string; version: number };

/** Changes a layout, dots or a card from what was shown to what is wished; the server's word is shown where it says no. */
export async function changeBeside<T extends object>(document: Worked, label: string, shown: T, wished: Partial<T>) {
  try {
    await api.edit(document.id, document.version, label.slice(0, 120), leafChanges(shown, wished));
  } catch (error) {
    notify(error as never);
  }
  tellHistory();
}

/** A table of what is switched off without some of its members. Pure. */
export const without = (off: Record<string, boolean>, ...members: (string | null | undefined)[]) =>
  Object.fromEntries(Object.entries(off).filter(([m]) => !members.includes(m)));

/** Places with a marker put on one (and taken off another), or off the chart; its mirrored partner goes with it where it is given. */
export function placedOn(
  places: Record<string, string>,
  label: string,
  place: string | null,
  partner?: { label: string; place: string } | null,
): Record<string, string> {
  const wanted = [
    ...(place ? [[label, place] as const] : []),
    ...(partner ? [[partner.label, partner.place] as const] : []),
  ];
  const taken = new Set(wanted.map(([, p]) => p));
  const moved = new Set([label, ...(partner ? [partner.label] : [])]);
  return Object.fromEntries([...Object.entries(places).filter(([l, p]) => !moved.has(l) && !taken.has(p)), ...wanted]);
}
