// The jobs of this desk: those of some kinds, and what they made shown as soon as they have ended.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useParams } from "react-router";
import { api, type Job } from "../api/client";
import { reload } from "./workspace";

/** Jobs of some kinds, newest first. Pure. */
export const jobsOf = (jobs: Job[], kinds: string[]): Job[] => jobs.filter((j) => kinds.includes(j.kind));

/** kinds, made: whose jobs, and which queries they change; stale: what is shown is older than a job that ended before the
 * desk was opened. */
export function useDeskJobs(kinds: string[], made: string[], stale = false): { mine: Job[]; running: boolean } {
  const { production = "" } = useParams();
  const client = useQueryClient();
  const listed = useQuery({ queryKey: ["jobs", production], queryFn: () => api.jobs(production) }).data;
  const mine = jobsOf(listed ?? [], kinds);
  const ended = listed && (mine.find((j) => j.state === "done")?.id ?? "");
  const before = useRef<string | null>(null);
  const changes = made.join();
  useEffect(() => {
    if (ended === undefined) return;
    if (before.current === null ? stale && ended !== "" : ended !== before.current) {
      void reload();
      for (const key of changes.split(",")) void client.invalidateQueries({ queryKey: [key] });
    }
    before.current = ended;
  }, [ended, stale, changes, client]);
  return { mine, running: mine.some((j) => j.state === "queued" || j.state === "running") };
}
