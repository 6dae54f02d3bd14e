// Something tried but not kept: played in a loop, once as it is and once as it would be.
import { create } from "zustand";
import type { StoreApi } from "zustand/vanilla";
import { Problem, type Wish } from "../api/client";
import { notify } from "../shared/notices";
import { clock as pageClock, type Clock, type Span } from "../playback/clock";
import type { SessionState } from "./state";
import type { Shown } from "./tables";
import { activeSession } from "./workspace";

type Trial = { name: string | null; showing: "before" | "after" };

/** What something can be tried on. */
export interface Triable<W> {
  readonly closed: boolean;
  readonly now: SessionState;
  readonly state: StoreApi<SessionState>;
  /** Parts as they would be with a wish; null where it was closed meanwhile. */
  tried(wish: W): Promise<Shown | null>;
  draw(shown: Shown): void;
}

export const useTrial = create<Trial>(() => ({ name: null, showing: "after" }));

const AROUND = 0.5; // seconds to either side that are played
let stop: (() => void) | null = null;
let newest = 0;

/** Plays frames before and after in turn, until it is stopped or something is changed. */
export async function tryOut<W = Wish>(
  name: string,
  wish: W,
  span: Span | null,
  session: Triable<W> | null = activeSession() as Triable<W> | null,
  clock: Clock = pageClock,
) {
  stopTrial();
  const mine = ++newest;
  if (!session?.now.curves) return;
  const { curves, body, rig, joints, props } = session.now;
  const before: Shown = { curves, body, rig, joints, props };
  let after: Shown | null;
  try {
    after = await session.tried(wish);
  } catch (error) {
    return notify(error instanceof Problem ? error : new Problem(0, String(error)));
  }
  if (!after || mine !== newest || session.now.curves !== curves) return;
  const sides = { before, after };
  const show = (which: "before" | "after") => {
    useTrial.setState({ name, showing: which });
    session.draw(sides[which]);
  };
  const was = { range: clock.range, looping: clock.looping, playing: clock.playing };
  if (span) {
    const margin = Math.round(AROUND * clock.fps);
    clock.setRange({ from: Math.max(0, span.from - margin), to: Math.min(clock.frames - 1, span.to + margin) });
    clock.setLooping(true);
  }
  show("after");
  const off = [
    clock.onLoop(() => show(useTrial.getState().showing === "after" ? "before" : "after")),
    // A change of the take ends it: what is shown then is what is stored.
    session.state.subscribe((s) => {
      if (session.closed || (s.curves !== before.curves && s.curves !== sides.after.curves)) end(false);
    }),
  ];
  const end = (back: boolean) => {
    off.forEach((f) => f());
    stop = null;
    useTrial.setState({ name: null });
    if (span && !session.closed) {
      clock.setRange(was.range);
      clock.setLooping(was.looping);
      if (!was.playing) clock.pause();
    }
    if (back && !session.closed) session.draw(before);
  };
  stop = () => end(true);
  if (span) clock.play();
}

/** Shows what is stored again. */
export function stopTrial() {
  newest++;
  stop?.();
}
