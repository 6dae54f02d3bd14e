import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { commandFor, inWords, register, useCommands, written, type Command } from "./commands";

const key = (name: string, more: Partial<KeyboardEvent> = {}) => ({
  key: name,
  ctrlKey: false,
  metaKey: false,
  shiftKey: false,
  altKey: false,
  target: null,
  ...more,
});
/** An element that lies in what a selector names. */
class Focus {
  constructor(private readonly inside: string[]) {}
  closest = (selector: string) => (this.inside.some((i) => selector.split(", ").includes(i)) ? this : null);
}
const focused = (...inside: string[]) => new Focus(inside) as unknown as Element;
const given: string[] = [];
const command = (id: string, keys: string[], more: Partial<Command> = {}): Command => ({
  id,
  group: "g",
  name: id,
  keys,
  run: () => given.push(id),
  ...more,
});
beforeEach(() => {
  (globalThis as { Element?: unknown }).Element = Focus;
});
afterEach(() => useCommands.setState({ commands: [] }));

describe("keys", () => {
  it("are written with what is held", () => {
    expect(written(key("z", { ctrlKey: true, shiftKey: true }))).toBe("Ctrl+Shift+Z");
    expect(written(key(" "))).toBe("Space");
    expect(written(key("ArrowLeft", { altKey: true, shiftKey: true }))).toBe("Alt+Shift+ArrowLeft");
    expect(written(key("?", { shiftKey: true }))).toBe("?");
    expect(written(key("N", { shiftKey: true }))).toBe("Shift+N");
    expect(written(key("z", { metaKey: true }))).toBe("Ctrl+Z");
  });
  it("are said in words", () => {
    expect(inWords("Ctrl+Shift+Z")).toBe("Ctrl Shift Z");
    expect(inWords("Alt+ArrowUp")).toBe("Alt ↑");
    expect(inWords("+")).toBe("+");
  });
});

describe("the registry of commands", () => {
  it("gives the command of a key, while it is offered", () => {
    const off = register([command("play", ["Space"])]);
    expect(commandFor(key(" "))?.id).toBe("play");
    off();
    expect(commandFor(key(" "))).toBeNull();
  });
  it("gives the newer of two that can be given", () => {
    let keysChosen = true;
    register([command("step", ["ArrowLeft"]), command("nudge", ["ArrowLeft"], { when: () => keysChosen })]);
    expect(commandFor(key("ArrowLeft"))?.id).toBe("nudge");
    keysChosen = false;
    expect(commandFor(key("ArrowLeft"))?.id).toBe("step");
  });
  it("leaves what is typed alone, but for commands that are given all the same", () => {
    register([command("loop", ["L"]), command("search", ["Ctrl+K"], { whileTyping: true })]);
    const target = focused("textarea");
    expect(commandFor(key("l", { target }))).toBeNull();
    expect(commandFor(key("k", { ctrlKey: true, target }))?.id).toBe("search");
  });
  it("lets a focused button have Space, a slider its arrows, and a dialog everything", () => {
    register([command("play", ["Space"]), command("step", ["ArrowLeft"]), command("loop", ["L"])]);
    expect(commandFor(key(" ", { target: focused("button") }))).toBeNull();
    expect(commandFor(key("l", { target: focused("button") }))?.id).toBe("loop");
    expect(commandFor(key("ArrowLeft", { target: focused("[role=slider]") }))).toBeNull();
    expect(commandFor(key("l", { target: focused("[role=dialog]") }))).toBeNull();
  });
  it("never gives a gesture, which has no key", () => {
    register([{ id: "pan", group: "g", name: "pan", gesture: "Alt drag" }]);
    expect(commandFor(key("Alt", { altKey: true }))).toBeNull();
  });
});
