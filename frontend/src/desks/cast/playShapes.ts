// Moves targets of the character from rest to their end and back, one after the other.
import { create } from "zustand";
import { tryTarget } from "../../workspace/workspace";

const EACH = 0.9; // seconds a target takes there and back

export const usePlayed = create<{ target: string | null }>(() => ({ target: null }));
let running = 0;

/** How far a target is at a part 0..1 of its time: up softly, down softly. Pure. */
export const swell = (part: number): number => Math.sin(Math.PI * Math.min(Math.max(part, 0), 1)) ** 2;

export function playShapes(targets: string[]) {
  stopPlaying();
  const mine = ++running;
  const began = performance.now();
  const tick = () => {
    if (mine !== running) return;
    const at = (performance.now() - began) / 1000 / EACH;
    const target = targets[Math.floor(at)];
    const before = usePlayed.getState().target;
    if (before !== null && before !== target) tryTarget(before, null);
    if (target === undefined) return stopPlaying();
    usePlayed.setState({ target });
    tryTarget(target, swell(at % 1));
    requestAnimationFrame(tick);
  };
  tick();
}

export function stopPlaying() {
  running++;
  const { target } = usePlayed.getState();
  if (target !== null) tryTarget(target, null);
  usePlayed.setState({ target: null });
}
