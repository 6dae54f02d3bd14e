import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api } from "../api/client";
import { notify } from "../shared/notices";
import { useFeed } from "./feedWire";
import { onHistory, tellHistory, workBeside } from "../workspace/workspace";

/** What a performer's live values become. */
export function useFeedProfile(production: string, performer: string) {
  const rows = useQuery({ queryKey: ["feed profiles", production], queryFn: () => api.feedProfiles(production) }).data;
  return performer ? rows?.find((row) => row.body.performer === performer) : undefined;
}

/** While it is worked on, undo and redo are the profile's; whatever changes it, it is asked for anew. */
export function useFeedHistory(production: string, id: string | undefined) {
  const client = useQueryClient();
  useEffect(
    () => onHistory(() => void client.invalidateQueries({ queryKey: ["feed profiles", production] })),
    [client, production],
  );
  // Others, and countdowns, change it too: whenever something is said.
  const told = useFeed((s) => s.state?.told);
  useEffect(tellHistory, [told]);
  useEffect(() => {
    if (!id) return;
    workBeside({
      id,
      travel: async (way) => {
        try {
          const { label } = await api[way]([id]);
          notify({ kind: "info", message: `${way === "undo" ? "Undone" : "Redone"}: ${label}` });
        } catch (error) {
          notify(error as never);
        }
        tellHistory();
      },
    });
    return () => workBeside(null);
  }, [id]);
}
