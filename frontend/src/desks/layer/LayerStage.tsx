// The stage at the Layer desk: taking hold of a face changes it in the open layer.
import { useEffect, useMemo } from "react";
import { useRestingFrame } from "../../playback/useClock";
import { useCatalogue } from "../../shared/catalogue";
import { ShotStage } from "../../viewer/ShotStage";
import { channelsOf, isTouchup } from "../../workspace/rig";
import { useSession } from "../../workspace/workspace";
import { beginGrab, useGrabbing } from "./grab";

export function LayerStage() {
  const layer = useSession((s) => s.shot?.opened.layers.find((l) => l.id === s.shot?.layer) ?? null);
  const { channels: standard } = useCatalogue();
  const rig = useSession((s) => s.shot?.rig ?? null);
  const channels = useMemo(() => (isTouchup(layer) ? channelsOf(rig) : standard), [layer, rig, standard]);
  const words = useGrabbing((s) => s.words);
  const frame = useRestingFrame();
  // What was changed is said until one goes on to another layer or frame.
  useEffect(() => useGrabbing.setState({ words: "", channels: [] }), [layer?.id, frame]);
  const can = !!layer && layer.body.does === "add" && !layer.body.locked && (!isTouchup(layer) || !!rig);
  const grab = useMemo(
    () => (can ? { begin: (held: Parameters<typeof beginGrab>[0]) => beginGrab(held, channels), words } : null),
    [can, words, channels],
  );
  return <ShotStage grab={grab} />;
}
