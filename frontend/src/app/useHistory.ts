import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api } from "../api/client";
import { onHistory, openSession, useOpen } from "../workspace/workspace";

/** What undo and redo would do now. */
export function useHistory(): { undo: string; redo: string } {
  const { beside } = useOpen("opened", "companions", "shot", "beside"); // the documents below change with these
  const client = useQueryClient();
  const ids = beside ? [beside.id] : (openSession()?.documentIds ?? []);
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["history"] })), [client]);
  return (
    useQuery({ queryKey: ["history", ...ids], queryFn: () => api.history(ids), enabled: ids.length > 0 }).data ?? {
      undo: "",
      redo: "",
    }
  );
}
