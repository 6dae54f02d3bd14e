// The commands of the deck: zoom, pan, fit, compare, jump; and the gestures that it knows.
import type { Command } from "../commands/commands";
import { lookedThrough, toNext } from "../snags/snags";
import type { DeckHandle } from "../timekit/Deck";
import { setComparing, useWorkspace } from "../workspace/workspace";

const GROUP = "Deck";

/** jump: to the next or previous frame at which the device's frames were wrong. */
export function deckCommands(deck: () => DeckHandle | null, jump: (backward: boolean) => void): Command[] {
  const next = (backward: boolean) => void (toNext(lookedThrough(), backward) || jump(backward));
  return [
    { id: "deck.zoom-in", group: GROUP, name: "Zoom in", keys: ["+", "="], run: () => deck()?.zoom(0.8) },
    { id: "deck.zoom-out", group: GROUP, name: "Zoom out", keys: ["-"], run: () => deck()?.zoom(1.25) },
    { id: "deck.back", group: GROUP, name: "Half a view back", keys: ["PageUp"], run: () => deck()?.pan(-0.5) },
    { id: "deck.on", group: GROUP, name: "Half a view on", keys: ["PageDown"], run: () => deck()?.pan(0.5) },
    { id: "deck.fit", group: GROUP, name: "Fit the take or its range", keys: ["F"], run: () => deck()?.fit() },
    {
      id: "deck.compare",
      group: GROUP,
      name: "Shade the difference",
      keys: ["D"],
      run: () => setComparing(!useWorkspace.getState().comparing),
    },
    { id: "snag.next", group: GROUP, name: "Next snag or fault of the frames", keys: ["N"], run: () => next(false) },
    { id: "snag.back", group: GROUP, name: "Previous snag or fault", keys: ["Shift+N"], run: () => next(true) },
    { id: "deck.wheel", group: GROUP, name: "Zoom about the pointer", gesture: "Wheel, Ctrl wheel over lanes" },
    { id: "deck.lanes", group: GROUP, name: "Scroll the lanes", gesture: "Wheel over them" },
    { id: "deck.tall", group: GROUP, name: "A lane taller, more lanes in sight", gesture: "Drag a lower edge" },
    { id: "deck.drag", group: GROUP, name: "Pan", gesture: "Shift wheel, Alt drag" },
    { id: "deck.range", group: GROUP, name: "Set the range", gesture: "Shift drag on the ruler" },
    { id: "deck.sound", group: GROUP, name: "Slide the sound (Gather)", gesture: "Drag on the wave" },
  ];
}
