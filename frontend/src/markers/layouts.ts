// The marker layout of the open take: which one is chosen, what it places, and its changes.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";
import { create } from "zustand";
import { api, type ChartPlace, type Doc, type LayoutStudy } from "../api/client";
import { notify } from "../app/notices";
import { onHistory, tellHistory, useWorkspace, workBeside } from "../workspace/workspace";

/** A channel as the distance of two markers, dots or places: 0 at rest millimetres (null: as in the neutral face), 1 at reach more. */
export type Drive = { from: string; to: string; rest: number | null; reach: number; low: number; high: number };
export type Drives = Record<string, Drive>;
export type LayoutBody = { name: string; performer: string; day: string; markers: string; places: Record<string, string>; neutral: [number, number]; samples: Record<string, number>; off: string[]; drives?: Drives };
type State = { chosen: Record<string, string>; selected: string | null; still: boolean };

/** chosen: layout by take, where it is not the performer's newest; selected: label of a marker; still: the head's motion is taken out. */
export const useMarkers = create<State>(() => ({ chosen: {}, selected: null, still: false }));

export const bodyOf = (layout: Doc) => layout.body as unknown as LayoutBody;

/** The layout that a take is solved with: the chosen one, else the performer's newest. */
export function layoutFor(layouts: Doc[], performer: string, chosen: string | undefined): Doc | null {
  return layouts.find((l) => l.id === chosen) ?? layouts.filter((l) => bodyOf(l).performer === performer).pop() ?? null;
}

type Held = { layouts: Doc[]; layout: Doc | null; body: LayoutBody | null; study: LayoutStudy | null; doubt: string; chart: ChartPlace[] };

export function useLayout(): Held {
  const { production = "" } = useParams();
  const client = useQueryClient();
  const take = useWorkspace((s) => (s.opened?.sources.markers ? s.opened.take : null));
  const chosen = useMarkers((s) => (take ? s.chosen[take.id] : undefined));
  const layouts = useQuery({ queryKey: ["layouts", production], queryFn: () => api.layouts(production), enabled: !!take }).data ?? [];
  const layout = take ? layoutFor(layouts, String(take.body.performer), chosen) : null;
  const study = useQuery({ queryKey: ["layout study", layout?.id, layout?.version], queryFn: () => api.studyLayout(layout!.id), enabled: !!layout, staleTime: Infinity, placeholderData: (before) => before });
  const chart = useQuery({ queryKey: ["chart"], queryFn: api.chart, staleTime: Infinity, enabled: !!take }).data ?? [];
  useEffect(() => workBeside("layout", layout?.id), [layout?.id, take]);
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["layouts"] })), [client]);
  return { layouts, layout, body: layout && bodyOf(layout), study: study.data?.rotation.length ? study.data : null, doubt: study.data?.problem ?? "", chart };
}

/** Changes a layout, or the card that stands for one; the server's word is shown where it says no. */
export async function changeLayout(layout: Pick<Doc, "id" | "version">, label: string, changes: Partial<LayoutBody>) {
  try {
    await api.edit(layout.id, layout.version, label, Object.entries(changes).map(([path, value]) => ({ path, value })));
  } catch (error) {
    notify(error as never);
  }
  tellHistory();
}

/** Places with a marker put on one (and taken off another), or off the chart; its mirrored partner goes with it where it is given. */
export function placedOn(places: Record<string, string>, label: string, place: string | null, partner?: { label: string; place: string } | null): Record<string, string> {
  const wanted = [...(place ? [[label, place] as const] : []), ...(partner ? [[partner.label, partner.place] as const] : [])];
  const taken = new Set(wanted.map(([, p]) => p));
  const moved = new Set([label, ...(partner ? [partner.label] : [])]);
  return Object.fromEntries([...Object.entries(places).filter(([l, p]) => !moved.has(l) && !taken.has(p)), ...wanted]);
}
