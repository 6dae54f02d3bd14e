// The line-up that is open, which of its recordings are chosen, and what is done with it.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { create } from "zustand";
import { api } from "../../api/client";
import { notify } from "../../shared/notices";
import { tellHistory, workBeside } from "../../workspace/workspace";
import { nudged, type LineUp } from "./lineUpModel";

type State = {
  /** Whether the Join desk shows it: its bars stand in the place of the deck. */
  shown: boolean;
  id: string;
  chosen: string[];
  /** Whether all recordings of a take move with one. */
  whole: boolean;
  /** What is dragged, and how far: all its bars move at once. */
  drag: { keys: string[]; frames: number };
};

export const STILL: State["drag"] = { keys: [], frames: 0 };

export const useLineUp = create<State>(() => ({ shown: false, id: "", chosen: [], whole: true, drag: STILL }));
export const openLineUp = (id: string) => useLineUp.setState({ id, chosen: [] });
export const chooseRecordings = (chosen: string[]) => useLineUp.setState({ chosen });
export const showLineUp = (shown: boolean) => useLineUp.setState({ shown });

/** The open line-up as it is stored. */
export function useLineUpDocument(): LineUp | null {
  const id = useLineUp((s) => s.id);
  return useQuery({ queryKey: ["lineup", id], queryFn: () => api.lineup(id), enabled: !!id }).data ?? null;
}

/** Changes of the open line-up; each is stored, and then shown as it is stored. */
export function useLineUpEdits() {
  const client = useQueryClient();
  const run = useCallback(
    async (make: () => Promise<unknown>) => {
      try {
        await make();
      } catch (error) {
        notify(error as never);
      }
      await client.invalidateQueries({ queryKey: ["lineup"] });
      tellHistory();
    },
    [client],
  );
  /** Moves recordings by frames of the count, and says so in one word. */
  const move = async (word: string, { lineup, rows }: LineUp, keys: string[], frames: number) => {
    const changes = nudged(lineup, keys, frames);
    if (!frames || !changes.length) return;
    const whose = keys.length === 1 ? rows.find((r) => r.key === keys[0])?.slate : `${keys.length} recordings`;
    await run(() => api.edit(lineup.id, lineup.version, `${word} ${whose}`, changes));
  };
  return { run, move };
}

/** Undo and redo are those of the line-up while it is shown. */
export function useLineUpHistory() {
  const { id, shown } = useLineUp();
  const { run } = useLineUpEdits();
  useEffect(() => {
    if (!id || !shown) return;
    workBeside({
      id,
      travel: (way) =>
        run(async () => {
          const { label } = await api[way]([id]);
          notify({ kind: "info", message: `${way === "undo" ? "Undone" : "Redone"}: ${label}` });
        }),
    });
    return () => workBeside(null);
  }, [id, shown, run]);
}
