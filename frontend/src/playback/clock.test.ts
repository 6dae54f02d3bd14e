import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Clock } from "./clock";

/** A page whose time stands until it is moved, and a sound card whose time is its own. */
class Page {
  now = 0;
  frames: (() => void)[] = [];
  cards: FakeContext[] = [];

  /** Moves the page's time, and the sound card's where it runs, then draws one frame. */
  pass(seconds: number, card = seconds) {
    this.now += seconds;
    for (const context of this.cards) if (context.state === "running") context.currentTime += card;
    const due = this.frames;
    this.frames = [];
    due.forEach((f) => f());
  }
}

type Source = { start: ReturnType<typeof vi.fn>; stop: ReturnType<typeof vi.fn>; playbackRate: { value: number } };

class FakeContext {
  state = "suspended";
  currentTime = 10;
  destination = {};
  sources: Source[] = [];
  decoding: ((decoded: { duration: number }) => void)[] = [];
  constructor() {
    page.cards.push(this);
  }
  resume() {
    this.state = "running";
    return Promise.resolve();
  }
  decodeAudioData(raw: ArrayBuffer) {
    return new Promise((done) => this.decoding.push(() => done({ duration: raw.byteLength })));
  }
  createBufferSource() {
    const made = {
      buffer: null as { duration: number } | null,
      playbackRate: { value: 1 },
      start: vi.fn(),
      stop: vi.fn(),
      connect: vi.fn(),
      disconnect: vi.fn(),
    };
    this.sources.push(made);
    return made;
  }
}

let page: Page;
let clock: Clock;

beforeEach(() => {
  page = new Page();
  vi.stubGlobal("AudioContext", FakeContext);
  vi.stubGlobal("requestAnimationFrame", (f: () => void) => page.frames.push(f));
  vi.spyOn(performance, "now").mockImplementation(() => page.now * 1000);
  clock = new Clock();
  clock.load(10, 60);
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

/** Decodes `seconds` of sound for the clock, at once or when the returned function is called. */
function sound(seconds: number) {
  const done = clock.setSound(new ArrayBuffer(seconds));
  return {
    decode: async () => {
      page.cards[0]!.decoding.shift()!({ duration: seconds });
      await done;
    },
  };
}

describe("frames", () => {
  it("counts those of the take and holds the last one", () => {
    expect(clock.frames).toBe(600);
    clock.seekFrame(5000);
    expect(clock.frame).toBe(599);
    clock.seekFrame(-3);
    expect(clock.frame).toBe(0);
  });

  it.each([24, 25, 30, 60, 120])("finds each frame again at %i frames per second", (fps) => {
    clock.load(10, fps);
    for (let frame = 0; frame < clock.frames; frame += 7) {
      clock.seekFrame(frame);
      expect(clock.frame).toBe(frame);
    }
  });

  it("begins anew for a new take, and stays for the same one", () => {
    clock.seekFrame(100);
    clock.setRange({ from: 10, to: 200 });
    clock.load(12, 60, true);
    expect([clock.frame, clock.range]).toEqual([100, { from: 10, to: 200 }]);
    clock.load(12, 60);
    expect([clock.frame, clock.range]).toEqual([0, null]);
  });
});

describe("playing", () => {
  it("goes by the page's time without sound, at the chosen rate", () => {
    clock.play();
    page.pass(0);
    page.pass(1);
    expect(clock.frame).toBe(60);
    clock.setRate(0.25);
    page.pass(1);
    expect(clock.frame).toBe(75);
  });

  it("goes by the sound card where there is sound: frames drop, sound never does", async () => {
    await sound(8).decode();
    clock.play();
    page.pass(0);
    page.pass(5, 2);
    expect(clock.frame).toBe(120);
    expect(page.cards[0]!.sources).toHaveLength(1);
  });

  it("plays the range again and again, or stops at its end", () => {
    const turns = vi.fn();
    clock.onLoop(turns);
    clock.setRange({ from: 60, to: 119 });
    clock.play();
    expect(clock.frame).toBe(60);
    page.pass(0);
    page.pass(1.01);
    expect([clock.frame, clock.playing]).toEqual([60, true]);
    expect(turns).toHaveBeenCalledOnce();
    clock.setLooping(false);
    page.pass(1.01);
    expect([clock.frame, clock.playing]).toEqual([119, false]);
  });

  it("does nothing where nothing is open", () => {
    const empty = new Clock();
    empty.play();
    expect(empty.playing).toBe(false);
  });

  it("stops for a step and says so", () => {
    const changed = vi.fn();
    clock.play();
    clock.onChange(changed);
    clock.step(-1);
    expect(clock.playing).toBe(false);
    expect(changed).toHaveBeenCalledOnce();
  });
});

describe("sound", () => {
  it("begins late where it is offset, and in its middle where the playhead is", async () => {
    await sound(8).decode();
    clock.setSoundOffset(0.5);
    clock.play();
    expect(page.cards[0]!.sources.at(-1)!.start).toHaveBeenLastCalledWith(10.5, 0);
    clock.pause();
    clock.seekFrame(120);
    clock.play();
    expect(page.cards[0]!.sources.at(-1)!.start).toHaveBeenLastCalledWith(10, 1.5);
  });

  it("is the newest one: a sound that was slow to decode does not come after it", async () => {
    const slow = sound(8);
    const quick = clock.setSound(new ArrayBuffer(3));
    page.cards[0]!.decoding[1]!({ duration: 3 });
    await quick;
    await slow.decode();
    clock.seekFrame(5 * 60); // beyond the newer sound's three seconds
    clock.play();
    expect(page.cards[0]!.sources.at(-1)!.start).not.toHaveBeenCalled();
  });

  it("is silent once it is taken away", async () => {
    await sound(8).decode();
    await clock.setSound(null);
    clock.play();
    expect(page.cards[0]!.sources).toHaveLength(0);
  });

  it("is heard for a moment while scrubbing, where that is asked for", async () => {
    await sound(8).decode();
    clock.seekFrame(60);
    expect(page.cards[0]!.sources).toHaveLength(0);
    clock.setScrubSound(true);
    clock.seekFrame(90);
    expect(page.cards[0]!.sources.at(-1)!.start).toHaveBeenLastCalledWith(0, 1.5, 0.08);
  });
});
