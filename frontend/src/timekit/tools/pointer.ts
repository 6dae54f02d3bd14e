// What a press in the deck begins: scrubbing, setting the range, moving the sound, or panning. A small state machine.
import { STRIPS } from "../view";

export type Gesture = "scrub" | "range" | "sound" | "pan";

export function gestureFor(
  event: { y: number; button: number; shiftKey: boolean; altKey: boolean },
  canMoveSound: boolean,
): Gesture {
  if (event.button === 1 || event.altKey) return "pan";
  if (event.y < STRIPS.ruler && event.shiftKey) return "range";
  const waveTop = STRIPS.ruler + STRIPS.snags;
  if (canMoveSound && event.y >= waveTop && event.y < waveTop + STRIPS.wave) return "sound";
  return "scrub";
}
