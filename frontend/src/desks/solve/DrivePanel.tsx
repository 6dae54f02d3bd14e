// Direct drive by the markers of the open take.
import { useCame } from "../../markers/cloud";
import { distance } from "../../markers/geometry";
import { changeBeside, useLayout, useMarkers, type Drives } from "../../markers/layouts";
import { clock } from "../../playback/clock";
import { DriveRows } from "./DriveRows";

export function DrivePanel() {
  const { layout, body } = useLayout();
  const raw = useCame();
  const { selected } = useMarkers();
  if (!layout || !body || !raw) return null;
  const keep = (label: string, drives: Drives) => void changeBeside(layout, label, body, { drives });
  const on = (place: string) =>
    Object.entries(body.places).find(([l, p]) => p === place && raw.labels.includes(l))?.[0];
  const chosen = selected && raw.labels.includes(selected) ? selected : on("upper lip mid");
  return (
    <DriveRows
      what="markers"
      drives={body.drives}
      labels={raw.labels}
      usual={[chosen, on("chin")]}
      here={(one, two) => Math.round(distance(raw, clock.frame, one, two) * 10) / 10}
      onKeep={keep}
    />
  );
}
