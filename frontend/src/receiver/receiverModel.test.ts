import { describe, expect, it } from "vitest";
import { factsOf, lateOf, waitingFor, type Arriving } from "./receiverModel";

const ONE: Arriving = {
  sender: 1,
  host: "127.0.0.1",
  called: "Mara",
  rate: 59.94,
  age: 0.01,
  lost: 2,
  packets: 812,
  channels: 55,
  joints: ["hips", "head"],
  gap: 16.7,
  longest: 18.21,
};

describe("what the receiver measures", () => {
  it("is said with its units", () => {
    expect(factsOf(ONE, [60, 4, 9.26])).toEqual([
      ["Arrives", "59.9 a second"],
      ["Brings", "55 channels, 2 joints"],
      ["Between two", "16.7 ms, 95% 18.2 ms"],
      ["Lost", "2 in the last minute"],
      ["Until posed", "4.0 ms, 95% 9.3 ms"],
      ["Packets", "812"],
    ]);
  });

  it("is nothing that is known where neither channels nor joints are", () => {
    const facts = new Map(factsOf({ ...ONE, channels: 0, joints: [] }, [0, 0, 0]));
    expect(facts.get("Brings")).toBe("nothing that is known");
    expect(facts.get("Until posed")).toBe("not yet");
  });

  it("reads what a character notes, and nothing of anything else", () => {
    expect(lateOf("120.0 3.5 8.1")).toEqual([120, 3.5, 8.1]);
    expect(lateOf(undefined)).toEqual([0, 0, 0]);
    expect(lateOf("x y")).toEqual([0, 0, 0]);
  });

  it("says what to do while nothing is shown", () => {
    expect(waitingFor(null, false)).toContain("still running");
    expect(waitingFor({ refused: 3, senders: [] }, true)).toContain("3 datagrams");
    expect(waitingFor({ refused: 0, senders: [] }, true)).toContain("Feed panel");
  });
});
