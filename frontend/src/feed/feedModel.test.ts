import { describe, expect, it } from "vitest";
import {
  adviceOf,
  arrivalOf,
  bringsValues,
  broughtOf,
  calledOf,
  clock,
  filtered,
  gainOf,
  nextOf,
  readFrame,
  readOf,
  rowOf,
  runningOf,
  senderIn,
  senderOf,
  shareOf,
  signalIn,
  watchedOf,
  type Described,
  type FeedState,
  type Hello,
  type SenderState,
  type Signal,
} from "./feedModel";

const SENDER: SenderState = {
  sender: 1,
  host: "10.0.0.7",
  how: "OSC",
  called: "mara",
  performer: "",
  rate: 59.6,
  age: 0.01,
  lost: 0,
  begun: 0,
  packets: 100,
  joints: [],
  hangs: "",
  kept: false,
  percent: false,
  radians: false,
  flipped: [],
  signals: [
    ["/a/jaw", "jawOpen", 0.5, 0, 0.6],
    ["/a/glow", "", 3, -2, 8],
  ],
};
const STATE: FeedState = {
  elsewhere: 0,
  refusals: 0,
  refused: [],
  senders: [SENDER],
  slate: "lamp",
  number: 3,
  count: null,
  recording: null,
  keeping: 0,
  timecode: null,
  outs: [],
  said: [],
  told: 0,
  made: [],
};
const HELLO: Hello = { trouble: "", port: 8471, addresses: [{ host: "10.0.0.2", code: "" }], alone: false };
const OF: Described = { sender: 7, source: "s", targets: ["a", "b"], still: [], joints: ["head"], shifted: ["jaw"] };

function packed(sender: number, numbers: number[]): ArrayBuffer {
  const raw = new ArrayBuffer(16 + 4 * numbers.length);
  const view = new DataView(raw);
  view.setUint32(0, sender, true);
  view.setUint32(4, 42, true);
  view.setFloat64(8, 1234.5, true);
  new Float32Array(raw, 16).set(numbers);
  return raw;
}

describe("who is shown", () => {
  it("is the one of the panel first, then those beside", () => {
    expect(watchedOf({ watched: null, beside: [2] })).toEqual([]);
    expect(watchedOf({ watched: 3, beside: [2, 5] })).toEqual([3, 2, 5]);
  });

  it("is said by the first number of a frame, and by no shorter message", () => {
    const raw = new ArrayBuffer(16);
    new DataView(raw).setUint32(0, 7, true);
    expect(senderOf(raw)).toBe(7);
    expect(senderOf(new ArrayBuffer(15))).toBe(-1);
  });
});

describe("what a sender brings", () => {
  it("is the share of its values that is read, and its joints", () => {
    expect(broughtOf(SENDER)).toBe("1 of 2");
    expect(broughtOf({ ...SENDER, joints: ["hips", "head"] })).toBe("1 of 2 · 2 joints");
    expect(broughtOf({ ...SENDER, signals: [], joints: ["hips", "head"] })).toBe("2 joints");
    expect(broughtOf({ ...SENDER, signals: [] })).toBe("0 of 0");
  });

  it("is said where its joints hang on nothing", () => {
    const odd = { ...SENDER, signals: [], joints: ["j1"], hangs: "nothing" };
    expect(adviceOf(HELLO, { ...STATE, senders: [odd] })).toContain("no names of a body");
    expect(adviceOf(HELLO, { ...STATE, senders: [{ ...odd, hangs: "skeleton" }] })).toBe("");
    expect(adviceOf(HELLO, { ...STATE, senders: [{ ...odd, age: 9 }] })).toBe("");
  });
});

describe("a frame", () => {
  const numbers = [...Array(3).fill(9), 0.25, 0.5, 0, 0, 0, 1, 1, 2, 3];
  it("is read as the server packs it", () => {
    const frame = readFrame(packed(7, numbers), 3, OF)!;
    expect(frame).toMatchObject({ sender: 7, number: 42, heard: 1234.5 });
    expect([...frame.weights]).toEqual([0.25, 0.5]);
    expect([...frame.motion]).toEqual([0, 0, 0, 1]);
    expect([...frame.shifts]).toEqual([1, 2, 3]);
  });
  it("of another character, or another sender, is none", () => {
    expect(readFrame(packed(7, numbers.slice(1)), 3, OF)).toBeNull();
    expect(readFrame(packed(8, numbers), 3, OF)).toBeNull();
  });
});

describe("a sender", () => {
  it("is called by its performer, else as it calls them, else by where it is", () => {
    expect(calledOf({ ...SENDER, performer: "Mara Quill" })).toBe("Mara Quill");
    expect(calledOf(SENDER)).toBe("mara");
    expect(calledOf({ ...SENDER, called: "" })).toBe("10.0.0.7");
  });
  it("says how it arrives", () => {
    expect(arrivalOf(SENDER)).toBe("60 a second");
    expect(arrivalOf({ ...SENDER, lost: 4 })).toBe("60 a second, 4 lost in the last minute");
    expect(arrivalOf({ ...SENDER, age: 12.4 })).toBe("silent for 12 s");
    expect(arrivalOf({ ...SENDER, age: 130 })).toBe("silent for 2 min");
    expect(arrivalOf({ ...SENDER, age: null })).toBe("nothing yet");
  });
  it("has values of which some are read", () => {
    expect(readOf(SENDER)).toBe(1);
    expect(filtered(SENDER.signals, "", true)).toEqual([SENDER.signals[1]]);
    expect(filtered(SENDER.signals, "JAWOP", false)).toEqual([SENDER.signals[0]]);
    expect(filtered(SENDER.signals, "nothing", false)).toEqual([]);
  });
});

describe("a meter", () => {
  it("shows weights against 0 to 1 or 0 to 100, all else against what was seen", () => {
    const [jaw, glow] = SENDER.signals as [Signal, Signal];
    expect(shareOf(jaw, false)).toBe(0.5);
    expect(shareOf(jaw, true)).toBeCloseTo(0.005);
    expect(shareOf(glow, false)).toBeCloseTo(0.5);
    expect(shareOf(["/h", "headTurn", -30, -30, 30], false)).toBe(0);
    expect(shareOf(["/z", "", 0, 0, 0], false)).toBe(0);
  });
});

describe("advice", () => {
  it.each([
    ["a port that is taken", { ...HELLO, trouble: "nothing can be heard at port 8471" }, STATE, "Another program"],
    ["nothing heard on this machine", { ...HELLO, alone: true }, { ...STATE, senders: [] }, "DYNAFACE_FEED_HOST"],
    ["nothing heard in the network", HELLO, { ...STATE, senders: [] }, "same network"],
    [
      "something that is not understood",
      HELLO,
      { ...STATE, senders: [], refusals: 2, refused: ["10.0.0.7: no"] },
      "10.0.0.7: no",
    ],
    ["somebody else's senders", HELLO, { ...STATE, senders: [], elsewhere: 1 }, "another production"],
    [
      "values of which none is known",
      HELLO,
      { ...STATE, senders: [{ ...SENDER, signals: [SENDER.signals[1]!] }] },
      "none of which is known",
    ],
  ])("is given for %s", (_, hello, state, words) => {
    expect(adviceOf(hello, state)).toContain(words);
  });
  it("is none where all is well or nothing is known yet", () => {
    expect(adviceOf(HELLO, STATE)).toBe("");
    expect(adviceOf(null, null)).toBe("");
  });
});

describe("the top line", () => {
  it("says what runs", () => {
    expect(runningOf(null)).toBeNull();
    expect(runningOf({ ...STATE, senders: [] })).toBeNull();
    expect(runningOf({ ...STATE, senders: [{ ...SENDER, age: 9 }] })).toBeNull();
    expect(runningOf(STATE)).toEqual({ words: "Live · mara", recording: false });
    expect(runningOf({ ...STATE, senders: [SENDER, SENDER] })!.words).toBe("Live · 2 performers");
    expect(runningOf({ ...STATE, recording: { seconds: 65.2, packets: 9 } })).toEqual({
      words: "Recording 1:05",
      recording: true,
    });
    expect(runningOf({ ...STATE, count: { what: "record", left: 1.2 } })!.words).toBe("Records in 2");
  });
});

describe("small things", () => {
  it("count", () => {
    expect(clock(3605)).toBe("60:05");
    expect(nextOf(STATE)).toBe("lamp_03");
    expect(gainOf(undefined, undefined)).toBe(1);
    expect(gainOf(0.1, 0.6)).toBeCloseTo(2);
    expect(gainOf(0.5, 0.5)).toBeCloseTo(20);
  });
  it("give a frame's channels, without what is not known", () => {
    const curves = {
      channels: ["jawOpen", "headTurn", "distance1"],
      frames: 2,
      tidied: { data: [0, 1, 5, 0.5, Number.NaN, 5] },
    };
    expect(rowOf(curves, 0)).toEqual({ jawOpen: 0, headTurn: 1 });
    expect(rowOf(curves, 9)).toEqual({ jawOpen: 0.5 });
  });
});

describe("what of the state a part of the panel looks at", () => {
  it("is one sender, by number", () => {
    expect(senderIn(STATE, 1)).toBe(SENDER);
    expect(senderIn(STATE, 2)).toBeUndefined();
    expect(senderIn(STATE, null)).toBeUndefined();
    expect(senderIn(null, 1)).toBeUndefined();
  });

  it("is one of its values, by the name that it has there", () => {
    expect(signalIn(SENDER, "/a/glow")).toBe(SENDER.signals[1]);
    expect(signalIn(SENDER, "/a/brow")).toBeUndefined();
    expect(signalIn(undefined, "/a/jaw")).toBeUndefined();
  });

  it("shows values of those that send some, or nothing at all yet, but not of a body alone", () => {
    expect(bringsValues(SENDER)).toBe(true);
    expect(bringsValues({ ...SENDER, signals: [] })).toBe(true);
    expect(bringsValues({ ...SENDER, signals: [], joints: ["hips"] })).toBe(false);
    expect(bringsValues(undefined)).toBe(false);
  });
});
