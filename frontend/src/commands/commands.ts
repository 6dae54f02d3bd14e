// The commands of the page: what can be done, by which keys, and when. The key sheet, the search box and the shortcuts all come
// from here. Whoever offers commands registers them while it is there.
import { create } from "zustand";

/** keys: each a way to give it, such as "Ctrl+Shift+Z", "ArrowLeft", "?"; a gesture says in words what the hand does instead. */
export type Command = {
  id: string;
  group: string;
  name: string;
  keys?: string[];
  gesture?: string;
  /** Whether it can be given now; always where nothing is said. */
  when?: () => boolean;
  /** Also while something is typed. */
  whileTyping?: boolean;
  run?: () => void;
};
type Registered = { commands: Command[] };

/** Newest offers last: of two commands on one key the newer one that can be given is. */
export const useCommands = create<Registered>(() => ({ commands: [] }));

/** Offers commands until what it gives is called. */
export function register(commands: Command[]): () => void {
  useCommands.setState((s) => ({ commands: [...s.commands, ...commands] }));
  return () => useCommands.setState((s) => ({ commands: s.commands.filter((c) => !commands.includes(c)) }));
}

type Pressed = Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "shiftKey" | "altKey">;

/** How a press is written: "Ctrl+Shift+Z". Shift is not said of signs, which have it in them. */
export function written({ key, ctrlKey, metaKey, shiftKey, altKey }: Pressed): string {
  const named = key === " " ? "Space" : key.length === 1 ? key.toUpperCase() : key;
  const sign = key.length === 1 && key.toLowerCase() === key.toUpperCase() && key !== " ";
  return [ctrlKey || metaKey ? "Ctrl" : "", altKey ? "Alt" : "", shiftKey && !sign ? "Shift" : "", named]
    .filter(Boolean)
    .join("+");
}

/** Where a press belongs to what has the focus: typing, a slider's arrows, a button's Space and Enter, an open dialog. */
function belongsTo(target: Element | null, pressed: string): "typing" | "focus" | null {
  if (!target) return null;
  if (target.closest("input:not([type=checkbox]), textarea, select, [contenteditable=true]")) return "typing";
  if (target.closest("[role=dialog]")) return "focus";
  if (target.closest("[role=slider], [role=grid]") && /^(Shift\+)?(Arrow|Home|End|Page)/.test(pressed)) return "focus";
  const presses = target.closest(
    "button, a, [role=button], [role=tab], [role=row], [role=switch], input[type=checkbox]",
  );
  return presses && (pressed === "Space" || pressed === "Enter") ? "focus" : null;
}

/** The command that a press gives, or null. */
export function commandFor(event: Pressed & { target: EventTarget | null }): Command | null {
  const pressed = written(event);
  const place = belongsTo(event.target instanceof Element ? event.target : null, pressed);
  if (place === "focus") return null;
  const fits = (c: Command) =>
    !!c.run && !!c.keys?.includes(pressed) && (place !== "typing" || !!c.whileTyping) && (c.when?.() ?? true);
  return useCommands.getState().commands.filter(fits).pop() ?? null;
}

/** Gives commands by keys until what it gives is called. */
export function listen(to: Window): () => void {
  const press = (event: KeyboardEvent) => {
    const command = commandFor(event);
    if (!command) return;
    event.preventDefault();
    command.run!();
  };
  to.addEventListener("keydown", press);
  return () => to.removeEventListener("keydown", press);
}

const WORDS: Record<string, string> = {
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  PageUp: "PgUp",
  PageDown: "PgDn",
  Delete: "Del",
};

/** Keys in words for people: "Ctrl Z". */
export const inWords = (keys: string): string =>
  (keys === "+" ? ["+"] : keys.split("+")).map((k) => WORDS[k] ?? k).join(" ");
