// The colour dots of the open take: their layout, which place is being picked, and what is of their colours.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";
import { create } from "zustand";
import type { Table } from "../api/bundle";
import { api, type ChartPlace, type DotsDoc } from "../api/client";
import type { Correction } from "./byHand";
import { layoutFor } from "./layouts";
import { onHistory, setCompanion, useSession } from "../workspace/workspace";

export type DotsBody = DotsDoc["body"];
export type Dot = DotsBody["dots"][string];
/** chosen: layout by take; picking: the place that the next click in the picture is for; tolerance: what a drag shows before it is kept;
 * dot: whose track is looked at; putting: the next click in the picture says where it is; dragged: where it is being dragged to. */
type State = {
  open: boolean;
  chosen: Record<string, string>;
  picking: string | null;
  mirror: boolean;
  mask: boolean;
  tolerance: number | null;
  dot: string | null;
  putting: boolean;
  dragged: { dot: string; x: number; y: number } | null;
};

export const useDotState = create<State>(() => ({
  open: false,
  chosen: {},
  picking: null,
  mirror: true,
  mask: false,
  tolerance: null,
  dot: null,
  putting: false,
  dragged: null,
}));

/** Places that dots are mostly put on, in the order in which they are offered. */
const USUAL = [
  "bridge of the nose",
  "hairline",
  "hairline side right",
  "hairline side left",
  "brow inner right",
  "brow inner left",
  "brow mid right",
  "brow mid left",
  "cheek mid right",
  "cheek mid left",
  "mouth corner right",
  "mouth corner left",
  "upper lip mid",
  "lower lip mid",
  "chin pad",
];

/** The place that is offered next. */
export function nextPlace(body: DotsBody, after: string): string | null {
  const held = new Set(Object.values(body.dots).map((d) => d.place));
  const at = USUAL.indexOf(after);
  return [...USUAL.slice(at + 1), ...USUAL.slice(0, at + 1)].find((p) => !held.has(p)) ?? null;
}

type Held = { layouts: DotsDoc[]; layout: DotsDoc | null; body: DotsBody | null; chart: ChartPlace[] };

export function useDots(): Held {
  const { production = "" } = useParams();
  const client = useQueryClient();
  const take = useSession((s) => (s.opened?.sources.footage ? s.opened.take : null));
  const { chosen, open } = useDotState();
  const layouts =
    useQuery({ queryKey: ["dots", production], queryFn: () => api.dotLayouts(production), enabled: !!take }).data ?? [];
  const chart =
    useQuery({ queryKey: ["chart"], queryFn: api.chart, staleTime: Infinity, enabled: !!take && open }).data ?? [];
  const layout = take ? layoutFor(layouts, take.body.performer, chosen[take.id]) : null;
  const id = open ? layout?.id : undefined;
  useEffect(() => setCompanion("dots", id), [id, take]);
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["dots"] })), [client]);
  return { layouts, layout, body: layout && layout.body, chart };
}

export type DotsReport = {
  labels: string[];
  residual: number;
  worst: { label: string; typical: number; seen: number }[];
  seen: Record<string, string[]>;
  swaps: [string, string, number, number][];
  corrections?: Record<string, Correction>;
};
type SolveOfDots = { source: string; layout: string; report: DotsReport; points?: Table; sure?: Table };

/** The chosen solve, where it is one of dots, with where they were followed to: points (frames, dots, 2), sure (frames, dots). */
export function useDotSolve(): SolveOfDots | null {
  const curves = useSession((s) => s.opened?.sources.curves);
  const solve = curves?.info.solve as { dots?: DotsReport; dotLayout?: string } | undefined;
  const id = solve?.dots ? curves!.id : undefined;
  const made = useQuery({
    queryKey: ["followed dots", id],
    queryFn: () => api.followedDots(id!),
    enabled: !!id,
    staleTime: Infinity,
    retry: false,
  }).data;
  return id
    ? {
        source: id,
        layout: solve!.dotLayout ?? "",
        report: solve!.dots!,
        points: made?.arrays.points,
        sure: made?.arrays.confidence,
      }
    : null;
}

const DARK = 60;

/** Marks in (width * height * 4) pixels what is of one of the colours, whatever the light; the others become clear. Pure. */
export function masked(pixels: Uint8ClampedArray, colours: [number, number, number][], tolerance: number) {
  const shares = colours.map((c) => c.map((v) => v / Math.max(c[0] + c[1] + c[2], 1)));
  for (let i = 0; i < pixels.length; i += 4) {
    const total = pixels[i]! + pixels[i + 1]! + pixels[i + 2]!;
    const near =
      total > DARK &&
      shares.some(
        (s) =>
          Math.abs(pixels[i]! / total - s[0]!) +
            Math.abs(pixels[i + 1]! / total - s[1]!) +
            Math.abs(pixels[i + 2]! / total - s[2]!) <
          1.4 * tolerance,
      );
    pixels[i] = 233;
    pixels[i + 1] = 180;
    pixels[i + 2] = 76;
    pixels[i + 3] = near ? 215 : 0;
  }
}
