// The commands for keys, at the desk that edits them.
import type { Command } from "../commands/commands";
import { clock } from "../playback/clock";
import { openSession as open, useWorkspace } from "../workspace/workspace";
import { copyChosen, hand, insertHere, jumpKey, nudge, onChosen, pasteHere } from "./edit";
import { allOf, count, TOOLS, useKeys, type DeckTool } from "./keys";

const GROUP = "Keys of curves";
const some = () => count(useKeys.getState().chosen) > 0;
const shown = () => useWorkspace.getState().selected;
const TOOL_WORDS: Record<DeckTool, string> = {
  scrub: "Tool: scrub",
  keys: "Tool: choose and drag keys",
  lasso: "Tool: choose keys by lasso",
  draw: "Tool: draw a curve",
  smooth: "Tool: smooth with a brush",
  pull: "Tool: pull with a brush",
};

const nudges: Command[] = (
  [
    ["ArrowLeft", -1, 0, "a frame earlier"],
    ["ArrowRight", 1, 0, "a frame later"],
    ["ArrowUp", 0, 0.01, "0.01 higher"],
    ["ArrowDown", 0, -0.01, "0.01 lower"],
  ] as const
).flatMap(([key, frames, value, words]) => [
  {
    id: `keys.nudge.${key}`,
    group: GROUP,
    name: `Chosen keys ${words}`,
    keys: [`Alt+${key}`],
    when: some,
    run: () => nudge(open(), frames, value),
  },
  {
    id: `keys.nudge.${key}.ten`,
    group: GROUP,
    name: `Chosen keys ten times as far: ${words}`,
    keys: [`Alt+Shift+${key}`],
    when: some,
    run: () => nudge(open(), frames * 10, value * 10),
  },
]);

export const KEY_COMMANDS: Command[] = [
  ...TOOLS.map((tool, i) => ({
    id: `tool.${tool}`,
    group: GROUP,
    name: TOOL_WORDS[tool],
    keys: [String(i + 1)],
    run: () => useKeys.setState({ tool }),
  })),
  { id: "keys.back", group: GROUP, name: "To the previous key", keys: [","], run: () => void jumpKey(open(), true) },
  { id: "keys.on", group: GROUP, name: "To the next key", keys: ["."], run: () => void jumpKey(open(), false) },
  { id: "keys.insert", group: GROUP, name: "Insert keys at the playhead", keys: ["I"], run: () => insertHere(open()) },
  {
    id: "keys.delete",
    group: GROUP,
    name: "Delete the chosen keys",
    keys: ["Delete", "Backspace"],
    when: some,
    run: () => onChosen(open(), "delete keys", "delete", { refit: useKeys.getState().refit }, {}),
  },
  {
    id: "keys.all",
    group: GROUP,
    name: "Choose all keys that are shown",
    keys: ["Ctrl+A"],
    when: () => shown().some((c) => hand(open())[c]),
    run: () => useKeys.setState({ chosen: allOf(hand(open()), shown(), clock.range) }),
  },
  {
    id: "keys.copy",
    group: GROUP,
    name: "Copy the chosen keys",
    keys: ["Ctrl+C"],
    when: some,
    run: () => void copyChosen(open()),
  },
  {
    id: "keys.paste",
    group: GROUP,
    name: "Paste keys at the playhead",
    keys: ["Ctrl+V"],
    when: () => Object.keys(useKeys.getState().copied).length > 0,
    run: () => pasteHere(open()),
  },
  {
    id: "keys.none",
    group: GROUP,
    name: "Choose no key",
    keys: ["Escape"],
    when: some,
    run: () => useKeys.setState({ chosen: {} }),
  },
  ...nudges,
];
