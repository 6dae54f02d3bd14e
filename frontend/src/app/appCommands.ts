// The commands that apply anywhere: playing, time, undo, desks, and what is open over the page.
import type { Command } from "../commands/commands";
import { clock } from "../playback/clock";
import { toggleTheme } from "../shared/colourMode";
import { travel } from "../workspace/workspace";
import { DESKS, titled, type Desk } from "./desks";

const PLAYING = "Playing";
const PAGE = "Page";

/** Where commands lead that open something over the page, or another desk. */
export type Ways = { search: () => void; keys: () => void; handovers: () => void; go: (desk: Desk) => void };

export const TIME_COMMANDS: Command[] = [
  { id: "play", group: PLAYING, name: "Play or pause", keys: ["Space"], run: () => clock.toggle() },
  { id: "step.back", group: PLAYING, name: "One frame back", keys: ["ArrowLeft"], run: () => clock.step(-1) },
  { id: "step.on", group: PLAYING, name: "One frame on", keys: ["ArrowRight"], run: () => clock.step(1) },
  {
    id: "step.back.ten",
    group: PLAYING,
    name: "Ten frames back",
    keys: ["Shift+ArrowLeft"],
    run: () => clock.step(-10),
  },
  { id: "step.on.ten", group: PLAYING, name: "Ten frames on", keys: ["Shift+ArrowRight"], run: () => clock.step(10) },
  {
    id: "time.start",
    group: PLAYING,
    name: "To the start of the range",
    keys: ["Home"],
    run: () => clock.seekFrame(clock.span.from),
  },
  {
    id: "time.end",
    group: PLAYING,
    name: "To the end of the range",
    keys: ["End"],
    run: () => clock.seekFrame(clock.span.to),
  },
  {
    id: "range.begin",
    group: PLAYING,
    name: "The range begins here",
    keys: ["["],
    run: () => clock.setRange({ from: clock.frame, to: Math.max(clock.span.to, clock.frame + 1) }),
  },
  {
    id: "range.end",
    group: PLAYING,
    name: "The range ends here",
    keys: ["]"],
    run: () => clock.setRange({ from: Math.min(clock.span.from, clock.frame - 1), to: clock.frame }),
  },
  { id: "range.none", group: PLAYING, name: "No range", keys: ["\\"], run: () => clock.setRange(null) },
  { id: "loop", group: PLAYING, name: "Loop", keys: ["L"], run: () => clock.setLooping(!clock.looping) },
];

export const pageCommands = ({ search, keys, handovers, go }: Ways): Command[] => [
  { id: "undo", group: PAGE, name: "Undo", keys: ["Ctrl+Z"], run: () => void travel("undo") },
  { id: "redo", group: PAGE, name: "Redo", keys: ["Ctrl+Y", "Ctrl+Shift+Z"], run: () => void travel("redo") },
  {
    id: "search",
    group: PAGE,
    name: "Search takes, desks, channels, commands",
    keys: ["Ctrl+K"],
    whileTyping: true,
    run: search,
  },
  { id: "handovers", group: PAGE, name: "Handovers", keys: ["H"], run: handovers },
  { id: "theme", group: PAGE, name: "Light or dark", run: toggleTheme },
  { id: "keys", group: PAGE, name: "Keys: this sheet", keys: ["?"], run: keys },
  { id: "rest", group: PAGE, name: "A slider back to rest", gesture: "Double-click it" },
  ...DESKS.map((desk) => ({ id: `desk.${desk}`, group: "Desks", name: `To ${titled(desk)}`, run: () => go(desk) })),
];
