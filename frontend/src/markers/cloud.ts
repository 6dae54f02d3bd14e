// The markers that are shown: those of the chosen solve where there is one, else as they came.
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, type LayoutStudy } from "../api/client";
import { useSession } from "../workspace/workspace";
import { carried, centred, cloudOf, type Cloud } from "./geometry";

/** The source of the chosen solve, where it is one of markers. */
export function useMarkerSolve(): string | undefined {
  return useSession((s) =>
    (s.opened?.sources.curves?.info.solve as { markers?: unknown } | undefined)?.markers
      ? s.opened!.sources.curves!.id
      : undefined,
  );
}

/** The markers of the open take as they came, in the stage's own space. */
export function useCame(): Cloud | null {
  const source = useSession((s) => s.opened?.sources.markers?.id);
  const came = useQuery({
    queryKey: ["markers", source],
    queryFn: () => api.markers(source!),
    enabled: !!source,
    staleTime: Infinity,
    retry: false,
  }).data;
  return useMemo(() => (came ? cloudOf(came.head.labels as string[], came.arrays.points!) : null), [came]);
}

/** solved: the solve's source, undefined before there is one; without it the markers as they came, carried to the head
 * where a layout tells how. */
export function useCloud(
  study: LayoutStudy | null,
  up: "x" | "y" | "z",
): { cloud: Cloud | null; solved: string | undefined } {
  const solved = useMarkerSolve();
  const came = useCame();
  const made = useQuery({
    queryKey: ["solved markers", solved],
    queryFn: () => api.solvedMarkers(solved!),
    enabled: !!solved,
    staleTime: Infinity,
    retry: false,
  }).data;
  const cloud = useMemo(() => {
    if (solved) return made ? cloudOf(made.head.labels as string[], made.arrays.points!, made.arrays) : null;
    return came && (study ? carried(came, study) : centred(came, up));
  }, [solved, made, came, study, up]);
  return { cloud, solved };
}
