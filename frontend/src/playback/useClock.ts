import { useSyncExternalStore } from "react";
import { clock, type Span } from "./clock";

type Shown = { playing: boolean; rate: number; looping: boolean; scrubSound: boolean; frame: number; seconds: number };
let last: Shown | null = null;

function shown(): Shown {
  const next = {
    playing: clock.playing,
    rate: clock.rate,
    looping: clock.looping,
    scrubSound: clock.scrubSound,
    frame: clock.frame,
    seconds: clock.seconds,
  };
  if (last && (Object.keys(next) as (keyof Shown)[]).every((k) => last![k] === next[k])) return last;
  return (last = next);
}

function subscribe(listener: () => void) {
  const off = [clock.onMove(listener), clock.onChange(listener)];
  return () => off.forEach((f) => f());
}

/** The clock's state for React; drawing follows the clock itself. */
export const useClock = (): Shown => useSyncExternalStore(subscribe, shown);

/** The chosen range alone: does not change while time moves. */
export const useRange = (): Span | null =>
  useSyncExternalStore(
    (listener) => clock.onChange(listener),
    () => clock.range,
  );

let rested = 0;
function resting(): number {
  if (!clock.playing) rested = clock.frame;
  return rested;
}

/** The frame at which time stands: while it runs the one from which it began, so that controls are not drawn anew each frame. */
export const useRestingFrame = (): number => useSyncExternalStore(subscribe, resting);
