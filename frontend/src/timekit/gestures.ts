// What a press in the deck begins where no track takes it: scrubbing, setting the range, or panning. Pure.
export type DeckGesture = "scrub" | "range" | "pan";

/** onRuler: whether it began on the ruler. */
export function gestureFor(
  event: { button: number; shiftKey: boolean; altKey: boolean },
  onRuler: boolean,
): DeckGesture {
  if (event.button === 1 || event.altKey) return "pan";
  return onRuler && event.shiftKey ? "range" : "scrub";
}
