import { afterEach, describe, expect, it } from "vitest";
import type { Clock, Span } from "../playback/clock";
import { surroundings } from "./fakeServer";
import { TakeSession } from "./session";
import { stopTrial, tryOut, useTrial } from "./trial";

/** Loops when it is told to. */
class Loop {
  fps = 60;
  frames = 8;
  range: Span | null = null;
  looping = false;
  playing = false;
  private again: () => void = () => undefined;
  onLoop = (listener: () => void) => ((this.again = listener), () => (this.again = () => undefined));
  setRange = (range: Span | null) => void (this.range = range);
  setLooping = (on: boolean) => void (this.looping = on);
  play = () => void (this.playing = true);
  pause = () => void (this.playing = false);
  round = () => this.again();
}

async function trying(span: Span | null = { from: 2, to: 4 }) {
  const around = surroundings();
  const session = new TakeSession("A", around);
  await session.open();
  const loop = new Loop();
  const begun = tryOut("weaker", { take: [{ path: "x", value: 9 }] }, span, session, loop as unknown as Clock);
  return { session, loop, around, begun };
}
const shown = (session: TakeSession) => session.now.curves!.tidied.data[0];
afterEach(() => stopTrial());

describe("a trial", () => {
  it("shows in turn what would be and what is, and at the end what is", async () => {
    const { session, loop, begun } = await trying();
    await begun;
    expect([shown(session), useTrial.getState().showing]).toEqual([9, "after"]);
    loop.round();
    expect([shown(session), useTrial.getState().showing]).toEqual([1, "before"]);
    loop.round();
    stopTrial();
    expect(shown(session)).toBe(1);
    expect(useTrial.getState().name).toBeNull();
  });
  it("plays its span with something around it and gives range and loop back", async () => {
    const { loop, begun } = await trying();
    await begun;
    expect(loop).toMatchObject({ playing: true, looping: true, range: { from: 0, to: 7 } });
    stopTrial();
    expect(loop).toMatchObject({ playing: false, looping: false, range: null });
  });
  it("without a span stands still", async () => {
    const { loop, begun } = await trying(null);
    await begun;
    expect(loop).toMatchObject({ playing: false, range: null });
  });
  it("ends with an edit, and what is stored is shown", async () => {
    const { session, begun } = await trying();
    await begun;
    await session.edit("take", "weaker", [{ path: "tidy/steps/strength/gain", value: 2 }]);
    expect(useTrial.getState().name).toBeNull();
    expect(shown(session)).toBe(2);
  });
  it("that was stopped while the server worked never begins", async () => {
    const { session, around, begun } = await trying();
    await begun;
    stopTrial();
    around.server.evaluating.open = false;
    const late = tryOut("again", { take: [{ path: "x", value: 5 }] }, null, session, new Loop() as unknown as Clock);
    stopTrial();
    around.server.evaluating.let();
    await late;
    expect(useTrial.getState().name).toBeNull();
    expect(shown(session)).toBe(1);
  });
  it("of a session that is closed changes nothing", async () => {
    const { session, around } = await trying();
    stopTrial();
    around.server.evaluating.open = false;
    const late = tryOut("again", { take: [{ path: "x", value: 5 }] }, null, session, new Loop() as unknown as Clock);
    session.close();
    around.server.evaluating.let();
    await late;
    expect(useTrial.getState().name).toBeNull();
  });
});
