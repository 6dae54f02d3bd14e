// The holds of props in the deck of a shot: chosen, their edges dragged, added by a double click.
import { freshId } from "../../api/changes";
import { clock } from "../../playback/clock";
import { notify } from "../../shared/notices";
import type { StandRows } from "../../timekit/tracks/stands";
import type { ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { useLayerDesk } from "./layerState";
import { edgesOf, holdPath, holdRows, holdWithEdge, newHold, propsOf } from "./propModel";

export const chooseHold = (hold: { prop: string; key: string } | null) => useLayerDesk.setState({ hold });

/** What the deck draws of them; null where the shot has no prop. */
export function useHolds(shot: ShotState | null): StandRows | null {
  const { hold: chosen, holdDrag } = useLayerDesk();
  if (!shot || !propsOf(shot).length) return null;
  const { id, body } = shot.opened.shot;
  const parts = (key: string) => key.split(" ") as [string, string];
  const { rows, spans, props } = holdRows(shot, holdDrag);
  return {
    id: "holds",
    rows,
    spans,
    chosen: chosen ? `${chosen.prop} ${chosen.key}` : "",
    onChoose: (name) => {
      const [prop, key] = parts(name);
      chooseHold({ prop, key });
      useLayerDesk.setState({ panel: "props" });
    },
    onDrag: (name, edge, frame) => {
      const [prop, key] = parts(name);
      const before = useLayerDesk.getState().holdDrag;
      const was = before?.key === key ? before.now : body.props[prop]?.holds[key];
      if (!was) return;
      const now = holdWithEdge(was, edge, frame);
      useLayerDesk.setState({ holdDrag: { prop, key, now } });
      void activeShot()?.preview({ shot: edgesOf(prop, key, now) });
    },
    onDrop: () => {
      const dropped = useLayerDesk.getState().holdDrag;
      const done = dropped && activeShot()?.edit(id, "edge of a hold", edgesOf(dropped.prop, dropped.key, dropped.now));
      void Promise.resolve(done).finally(() => useLayerDesk.setState({ holdDrag: null }));
    },
    onAdd: (row, frame) => addHold(shot, props[row]!, frame),
  };
}

/** One more hold of a prop from a frame on, which is chosen then. */
export function addHold(shot: ShotState, prop: string, frame: number) {
  const made = newHold(shot, shot.opened.shot.body.props[prop]!, Math.max(0, frame), clock.fps);
  if (!made) return notify({ kind: "info", message: "every hand of the shot holds it here" });
  const key = freshId("h");
  chooseHold({ prop, key });
  useLayerDesk.setState({ panel: "props" });
  void activeShot()?.edit(shot.opened.shot.id, "a hand on it", [{ path: holdPath(prop, key), value: made }]);
}
