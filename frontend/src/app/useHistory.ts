import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api } from "../api/client";
import { documentIds, onHistory, useWorkspace } from "../workspace/workspace";

/** What undo and redo would do now. */
export function useHistory(): { undo: string; redo: string } {
  const opened = useWorkspace((s) => s.opened);
  const client = useQueryClient();
  const beside = useWorkspace((s) => s.beside);
  const ids = opened ? documentIds(opened, beside) : [];
  const key = ["history", ...ids];
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["history"] })), [client]);
  return useQuery({ queryKey: key, queryFn: () => api.history(ids), enabled: ids.length > 0 }).data ?? { undo: "", redo: "" };
}
