import { beforeEach, describe, expect, it, vi } from "vitest";
import type * as Client from "../api/client";
import { FakePlayer, FakeServer } from "./fakeServer";
import {
  activeSession,
  change,
  closeOpen,
  compareWithTake,
  edit,
  onHistory,
  onSession,
  openTake,
  preview,
  reload,
  select,
  sessionState,
  setCompanion,
  stopTrying,
  tellHistory,
  travel,
  tryTarget,
  useWorkspace,
  wishFrame,
  wishLayer,
} from "./workspace";

const { around } = vi.hoisted(() => ({
  around: {} as { server: FakeServer; player: FakePlayer & { pause: () => void } },
}));
vi.mock("../api/client", async (original) => ({
  ...(await original<typeof Client>()),
  api: new Proxy({}, { get: (_, name: string) => around.server[name as keyof FakeServer] }),
}));
vi.mock("../playback/clock", () => ({
  clock: new Proxy({}, { get: (_, name: string) => around.player[name as keyof FakePlayer] }),
}));
vi.mock("../shared/notices", () => ({ notify: vi.fn() }));

const settle = async () => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
};

beforeEach(() => {
  around.server = new FakeServer();
  around.player = Object.assign(new FakePlayer(), { pause: vi.fn() });
  useWorkspace.setState({ session: null, selected: ["jawOpen"], comparing: false });
});

describe("what is open", () => {
  it("is nothing at first, and commands do nothing then", async () => {
    expect(activeSession()).toBeNull();
    expect(sessionState().opened).toBeNull();
    await Promise.all([edit("take", "note", []), change(() => Promise.reject(new Error())), preview({}), reload()]);
    await travel("undo");
    expect(await compareWithTake(null)).toBeNull();
    expect(around.server.edits).toHaveLength(0);
  });

  it("is the take that was opened last", async () => {
    await openTake("A");
    expect(sessionState().opened!.take.id).toBe("A");
    await openTake("B");
    expect(sessionState().opened!.take.id).toBe("B");
    expect(around.player.sound).toBe("sound of B");
  });

  it("is shown at the frame that was wished for it, once", async () => {
    wishFrame("B", 5);
    await openTake("A");
    expect(around.player.frame).toBe(0);
    wishFrame("B", 5);
    await openTake("B");
    expect(around.player.frame).toBe(5);
    around.player.frame = 0;
    await openTake("B");
    expect(around.player.frame).toBe(0);
  });

  it("is of no matter which layer of a shot was wished", async () => {
    wishLayer("S", "odile", "lip", 12);
    await openTake("A");
    expect(useWorkspace.getState().layerWished).toBe(false);
  });

  it("stops playing and falls silent when it is closed", async () => {
    await openTake("A");
    closeOpen();
    await settle();
    expect(activeSession()).toBeNull();
    expect(around.player.sound).toBeNull();
    expect(around.player.pause).toHaveBeenCalled();
    closeOpen();
  });

  it("keeps what is chosen whatever is opened", async () => {
    select(["browInnerUp"]);
    await openTake("A");
    await openTake("B");
    expect(useWorkspace.getState().selected).toEqual(["browInnerUp"]);
  });
});

describe("commands", () => {
  it("go to the session that was active when they were given", async () => {
    await openTake("A");
    around.server.editing.open = false;
    const done = [
      edit("take", "note", [{ path: "notes", value: "one" }]),
      edit("take", "circle", [{ path: "circled", value: true }]),
    ];
    await openTake("B");
    around.server.editing.let();
    await Promise.all(done);
    expect(around.server.edits.map((e) => e.document)).toEqual(["A", "A"]);
    expect(around.server.takes.get("A")!.body).toMatchObject({ notes: "one", circled: true });
    expect(sessionState().opened!.take).toMatchObject({ id: "B", version: 1 });
  });

  it("try targets by hand until they are let go", async () => {
    await openTake("A");
    tryTarget("smile", 0.5);
    tryTarget("frown", 1);
    tryTarget("frown", null);
    expect(sessionState().tried).toEqual({ smile: 0.5 });
    stopTrying();
    expect(sessionState().tried).toEqual({});
  });

  it("undo also what is worked on beside the take", async () => {
    await openTake("A");
    setCompanion("layout", "layout of A");
    expect(activeSession()!.documentIds).toContain("layout of A");
    setCompanion("layout", undefined);
    expect(activeSession()!.documentIds).not.toContain("layout of A");
  });

  it("lay another take under this one and take it away", async () => {
    await openTake("A");
    expect(await compareWithTake({ id: "B", slate: "4B / 2" })).toEqual({});
    expect(sessionState().against!.name).toBe("4B / 2");
    expect(useWorkspace.getState().comparing).toBe(true);
    await compareWithTake(null);
    expect(sessionState().against).toBeNull();
  });
});

describe("who listens", () => {
  it("hears of the active session, and of another that becomes active", async () => {
    await openTake("A");
    const heard: (string | undefined)[] = [];
    const off = onSession((s) => heard.push(s.opened?.take.id));
    const first = activeSession()!;
    await openTake("B");
    expect(heard).toContain("B");
    heard.length = 0;
    first.tryTarget("smile", 1); // a session that is not active any more
    expect(heard).toEqual([]);
    tryTarget("smile", 1);
    expect(heard).toEqual(["B"]);
    off();
    tryTarget("smile", 0);
    expect(heard).toEqual(["B"]);
  });

  it("hears that history changed, by a session or by others", async () => {
    const heard = vi.fn();
    const off = onHistory(heard);
    tellHistory();
    expect(heard).toHaveBeenCalledTimes(1);
    await openTake("A");
    await edit("take", "note", [{ path: "notes", value: "one" }]);
    expect(heard).toHaveBeenCalledTimes(2);
    off();
    tellHistory();
    expect(heard).toHaveBeenCalledTimes(2);
  });
});
