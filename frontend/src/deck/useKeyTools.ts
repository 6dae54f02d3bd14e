// The key tools among a deck's curves: the keys that it shows, and what a press among them begins.
import { useMemo, useState } from "react";
import type { KeyHolder } from "../keys/keyHolder";
import { count, isChosen, useKeys, type Hand } from "../keys/keys";
import type { Curve, CurveView } from "../timekit/tracks/curves";
import { NO_KEYS } from "../timekit/tracks/keys";
import type { Gesture as TrackGesture, Point, Press } from "../timekit/track";
import { keyedCurves } from "./deckModel";
import { beginGesture, insertAt, type Gesture } from "./keyTools";

/** The gesture of a tool that is under way. */
class Under {
  gesture: Gesture | null = null;
  begin(gesture: Gesture | null) {
    this.gesture = gesture;
  }
}

/** Options of a track of curves; hand: the keys that are edited, null where none are. */
export function useKeyTools(shown: Curve[], hand: Hand | null, holder: () => KeyHolder | null) {
  const [under] = useState(() => new Under());
  const keyed = useKeys();
  const keys = useMemo(() => (hand ? keyedCurves(shown, hand) : []), [shown, hand]);
  return {
    keys: () =>
      hand
        ? {
            keys,
            isChosen: (channel: string, frame: number) => isChosen(keyed.chosen, channel, frame),
            chosenCount: count(keyed.chosen),
            drag: keyed.drag,
            stroke: under.gesture?.stroke() ?? [],
            strokeClosed: under.gesture?.closed ?? false,
          }
        : NO_KEYS,
    onPress: (view: CurveView, at: Press): TrackGesture | null => {
      if (!hand || keyed.tool === "scrub") return null;
      const made = beginGesture(holder(), keyed.tool, view, at);
      under.begin(made);
      return made && { move: made.move, release: (p) => (made.release(p), under.begin(null)) };
    },
    onTwice: (view: CurveView, at: Point) => void (hand && keyed.tool === "keys" && insertAt(holder(), view, at)),
  };
}
