// Direct drive by places of the face, as a clip's landmarks show them: kept with the performer card.
import { useQuery } from "@tanstack/react-query";
import { api, type CardRow } from "../../api/client";
import { changeBeside, type Drives } from "../../markers/layouts";
import { DriveRows } from "./DriveRows";

export function CardDrives({ card }: { card: CardRow }) {
  const chart = useQuery({ queryKey: ["chart"], queryFn: api.chart, staleTime: Infinity }).data ?? [];
  return (
    <DriveRows
      what="places of the face"
      drives={card.drives as Drives}
      labels={chart.map((p) => p.name)}
      usual={["upper lip mid", "chin pad"]}
      onKeep={(label, drives) => void changeBeside(card, label, { drives: card.drives as Drives }, { drives })}
    />
  );
}
