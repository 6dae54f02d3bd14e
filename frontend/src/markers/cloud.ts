// The markers that are shown: those of the chosen solve where there is one, else as they came.
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, type LayoutStudy } from "../api/client";
import { useWorkspace } from "../workspace/workspace";
import { carried, centred, cloudOf, type Cloud } from "./geometry";

/** The source of the chosen solve, where it is one of markers. */
export function useMarkerSolve(): string | undefined {
  return useWorkspace((s) => ((s.opened?.sources.curves?.info.solve as { markers?: unknown } | undefined)?.markers ? s.opened!.sources.curves!.id : undefined));
}

/** solved: the solve's source, undefined before there is one; raw: the markers as they came, carried to the head where a layout tells how. */
export function useCloud(study: LayoutStudy | null, up: "x" | "y" | "z" = "y"): { cloud: Cloud | null; raw: Cloud | null; solved: string | undefined } {
  const source = useWorkspace((s) => s.opened?.sources.markers?.id);
  const solved = useMarkerSolve();
  const came = useQuery({ queryKey: ["markers", source], queryFn: () => api.markers(source!), enabled: !!source, staleTime: Infinity, retry: false }).data;
  const made = useQuery({ queryKey: ["solved markers", solved], queryFn: () => api.solvedMarkers(solved!), enabled: !!solved, staleTime: Infinity, retry: false }).data;
  const raw = useMemo(() => {
    if (!came) return null;
    const whole = cloudOf(came.head.labels as string[], came.arrays.points!);
    return study ? carried(whole, study) : centred(whole, up);
  }, [came, study, up]);
  const cloud = useMemo(() => {
    if (!solved) return raw;
    return made ? cloudOf(made.head.labels as string[], made.arrays.points!, made.arrays) : null;
  }, [solved, made, raw]);
  return { cloud, raw, solved };
}
