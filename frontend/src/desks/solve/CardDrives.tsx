// Direct drive by places of the face, as a clip's landmarks show them: kept with the performer card.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, type CardRow } from "../../api/client";
import { notify } from "../../app/notices";
import type { Drives } from "../../markers/layouts";
import { onHistory, tellHistory, useWorkspace, workBeside } from "../../workspace/workspace";
import { DriveRows } from "./DriveRows";

export function CardDrives({ card }: { card: CardRow }) {
  const client = useQueryClient();
  const take = useWorkspace((s) => s.opened?.take.id);
  const chart = useQuery({ queryKey: ["chart"], queryFn: api.chart, staleTime: Infinity }).data ?? [];
  useEffect(() => workBeside("card", card.id), [card.id, take]);
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["cards"] })), [client]);
  const keep = async (label: string, drives: Drives) => {
    try {
      await api.edit(card.id, card.version, label, [{ path: "drives", value: drives }]);
    } catch (error) {
      notify(error as never);
    }
    await client.invalidateQueries({ queryKey: ["cards"] });
    tellHistory();
  };
  return <DriveRows what="places of the face" drives={card.drives as Drives} labels={chart.map((p) => p.name)} usual={["upper lip mid", "chin pad"]} onKeep={(label, next) => void keep(label, next)} />;
}
