import { shortAgent } from "./Account";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { deckCommands } from "../deck/deckCommands";
import { KEY_COMMANDS } from "../keys/keyCommands";
import { clock } from "../playback/clock";
import { pageCommands, TIME_COMMANDS } from "./appCommands";

vi.mock("./desks", () => ({ DESKS: ["gather", "tidy"], titled: (d: string) => d.toUpperCase() }));
const ways = { search: vi.fn(), keys: vi.fn(), handovers: vi.fn(), go: vi.fn() };
const all = [...TIME_COMMANDS, ...pageCommands(ways), ...KEY_COMMANDS, ...deckCommands(() => null, vi.fn())];
const give = (id: string) => all.find((c) => c.id === id)!.run!();

beforeEach(() => {
  vi.clearAllMocks();
  clock.load(10, 60);
  clock.setLooping(true);
});

describe("the commands of the page", () => {
  it("each have a name, a group and an id of their own", () => {
    expect(new Set(all.map((c) => c.id)).size).toBe(all.length);
    expect(all.filter((c) => !c.name || !c.group)).toEqual([]);
  });
  it("never share a key", () => {
    const keys = all.flatMap((c) => c.keys ?? []);
    expect(keys.filter((k, i) => keys.indexOf(k) !== i)).toEqual([]);
  });
  it("do something, or are a gesture of the hand", () => {
    expect(all.filter((c) => !c.run === !c.gesture)).toEqual([]);
  });
  it("lead to every desk, and to what opens over the page", () => {
    give("desk.tidy");
    give("search");
    give("keys");
    give("handovers");
    expect(ways.go).toHaveBeenCalledWith("tidy");
    for (const way of [ways.search, ways.keys, ways.handovers]) expect(way).toHaveBeenCalledOnce();
  });
});

describe("time by keys", () => {
  it("goes frame by frame, and ten at once", () => {
    clock.seekFrame(100);
    give("step.on");
    give("step.on.ten");
    expect(clock.frame).toBe(111);
    give("step.back");
    give("step.back.ten");
    expect(clock.frame).toBe(100);
  });
  it("has a range from here to there, gone to by its ends", () => {
    clock.seekFrame(100);
    give("range.begin");
    clock.seekFrame(200);
    give("range.end");
    expect(clock.range).toEqual({ from: 100, to: 200 });
    give("time.start");
    expect(clock.frame).toBe(100);
    give("time.end");
    expect(clock.frame).toBe(200);
    give("range.none");
    give("time.end");
    expect(clock.frame).toBe(599);
  });
  it("keeps a range of at least a frame where its ends cross", () => {
    clock.seekFrame(200);
    give("range.begin");
    clock.seekFrame(100);
    give("range.end");
    expect(clock.range!.to).toBeGreaterThan(clock.range!.from);
  });
  it("loops or not", () => {
    give("loop");
    expect(clock.looping).toBe(false);
  });
});

describe("a browser's name for itself", () => {
  it("is made short", () => {
    const agent =
      "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Safari/537.36";
    expect(shortAgent(agent)).toBe("Chrome, Linux");
    expect(shortAgent("curl/8.5")).toBe("curl/8.5");
    expect(shortAgent("")).toBe("unknown");
  });
});
