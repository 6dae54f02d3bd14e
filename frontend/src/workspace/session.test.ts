import { describe, expect, it } from "vitest";
import { Problem, type Wish } from "../api/client";
import { FRAMES, surroundings } from "./fakeServer";
import { TakeSession } from "./session";

const settle = async () => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
};
const weaker = (value: number): Wish => ({ take: [{ path: "tidy/steps/strength/gain", value }] });

async function opened(id = "A", around = surroundings()) {
  const session = new TakeSession(id, around);
  await session.open();
  return { session, around, server: around.server, player: around.player };
}
const shown = (session: TakeSession) => session.now.curves!.tidied.data[0];

describe("opening a take", () => {
  it("shows its curves and plays its sound", async () => {
    const { session, player } = await opened();
    expect(session.now.curves!.frames).toBe(FRAMES);
    expect(shown(session)).toBe(1);
    expect(player.sound).toBe("sound of A");
    expect(player.seconds).toBeCloseTo(FRAMES / 60);
  });
  it("goes to the frame that was wished for", async () => {
    const around = surroundings();
    await new TakeSession("A", around).open(5);
    expect(around.player.frame).toBe(5);
  });
  it("plays the sound of a take that is closed and opened again", async () => {
    const { session, around } = await opened();
    session.close();
    await around.player.setSound(null);
    await opened("A", around);
    expect(around.player.sound).toBe("sound of A");
  });
  it("tries a sound again that failed once", async () => {
    const around = surroundings();
    around.server.failSound = true;
    const { session } = await opened("A", around);
    expect(around.player.sound).toBeNull();
    around.server.failSound = false;
    await session.reload();
    expect(around.player.sound).toBe("sound of A");
  });
  it("leaves a sound that comes late to the take that asked for it", async () => {
    const around = surroundings();
    around.server.sounding.open = false;
    const first = new TakeSession("A", around);
    const opening = first.open();
    await settle();
    first.close();
    const second = new TakeSession("B", around);
    const other = second.open();
    around.server.sounding.let();
    await Promise.all([opening, other]);
    expect(around.player.sound).toBe("sound of B");
  });
});

describe("edits", () => {
  it("that were queued on one take land on it, though another was opened meanwhile", async () => {
    const { session: a, around, server } = await opened("A");
    server.editing.open = false;
    const edits = [
      a.edit("take", "note", [{ path: "notes", value: "one" }]),
      a.edit("take", "circle", [{ path: "circled", value: true }]),
    ];
    a.close();
    const { session: b } = await opened("B", around);
    server.editing.let();
    await Promise.all(edits);
    expect(server.edits.map((e) => e.document)).toEqual(["A", "A"]);
    expect(server.takes.get("A")!.body).toMatchObject({ notes: "one", circled: true });
    expect(server.takes.get("B")!.body).toMatchObject({ notes: "", circled: false });
    expect(b.now.opened!.take.id).toBe("B");
    expect(around.player.sound).toBe("sound of B");
  });
  it("each build on the version that the one before made, and their result is shown", async () => {
    const { session, server } = await opened();
    await Promise.all(
      [1, 2, 3].map((n) => session.edit("take", `weaker ${n}`, [{ path: "tidy/steps/strength/gain", value: n }])),
    );
    expect(server.edits.map((e) => e.at)).toEqual([2, 3, 4]);
    expect(shown(session)).toBe(4);
    expect(session.now.saving).toBe(0);
  });
  it("of keys go to the server with the take's version, and say what they did", async () => {
    const { session, server } = await opened();
    const edit = { do: "reduce", channels: { jawOpen: [] } };
    await session.edit("take", "circle", [{ path: "circled", value: true }]);
    expect(await session.editKeys("reduce", edit)).toMatchObject({ jawOpen: { keys: 1 } });
    expect(server.edits.map((e) => e.at)).toEqual([2, 3]);
    expect(Object.keys(session.hand)).toEqual(["reduce"]);
    server.refuse = new Problem(422, "no");
    expect(await session.editKeys("reduce", edit)).toBeNull();
  });
  it("mend snags on the newest version, and let them be each by its own leaf", async () => {
    const { session, server } = await opened();
    await Promise.all([session.mendSnags(["a", "b"]), session.mendSnags(["c"])]);
    expect(server.edits.map((e) => e.changes[0]!.value)).toEqual([["a", "b"], ["c"]]);
    await session.dismissSnag("a", "dismiss", { kind: "spike", reason: "meant", first: 1, last: 2 });
    await session.dismissSnag("a", "look again", null);
    expect(server.edits.slice(2).map((e) => e.changes[0])).toEqual([
      { path: "dismissed/a", value: { kind: "spike", reason: "meant", first: 1, last: 2 } },
      { path: "dismissed/a", remove: true },
    ]);
  });
  it("mend snags of the body in the join, on its newest version, and try them beside those of the take", async () => {
    const { session, server } = await opened();
    const { bodySnags } = session;
    expect(bodySnags.snagsOf).toBe(`${session.snagsOf} body`);
    expect((await bodySnags.findSnags()).snags).toEqual([]);
    await Promise.all([bodySnags.mendSnags(["a"]), bodySnags.mendSnags(["b"])]);
    expect(server.bodyMends.map((m) => [m.version, m.keys])).toEqual([
      [1, ["a"]],
      [2, ["b"]],
    ]);
    await bodySnags.tried({ mends: ["a"] });
    expect(server.asked.at(-1)!.request.bodyMends).toEqual(["a"]);
    expect([bodySnags.closed, bodySnags.now, bodySnags.state]).toEqual([session.closed, session.now, session.state]);
  });
  it("show what is stored again when they are refused, in the server's words, and the next one is made", async () => {
    const { session, around, server } = await opened();
    server.refuse = new Problem(409, "Ivo changed this meanwhile");
    await Promise.all([
      session.edit("take", "note", [{ path: "notes", value: "mine" }]),
      session.edit("take", "circle", [{ path: "circled", value: true }]),
    ]);
    expect(around.said).toContain("Ivo changed this meanwhile");
    expect(session.now.opened!.take.body).toMatchObject({ notes: "", circled: true });
  });
  it("of words alone ask for no curves", async () => {
    const { session, server } = await opened();
    const before = server.asked.length;
    await session.edit("take", "note", [{ path: "notes", value: "x" }]);
    expect(server.asked.length).toBe(before);
  });
  it("of the sound's place move it at once and ask for no curves", async () => {
    const { session, server, player } = await opened();
    const before = server.asked.length;
    await session.edit("take", "slide", [{ path: "soundOffset", value: 0.25 }]);
    expect(player.offset).toBe(0.25);
    expect(server.asked.length).toBe(before);
  });
  it("that the server works out itself wait their turn", async () => {
    const { session, server } = await opened();
    const first = session.edit("take", "note", [{ path: "notes", value: "x" }]);
    const versions: number[] = [];
    await Promise.all([
      first,
      session.change(async (take) => (versions.push(take.version), server.takes.get(take.id)!)),
    ]);
    expect(versions).toEqual([2]);
  });
});

describe("previews", () => {
  it("show what is wished for without keeping it", async () => {
    const { session, server } = await opened();
    await session.preview(weaker(7));
    expect(shown(session)).toBe(7);
    expect(server.edits).toEqual([]);
    await session.refresh();
    expect(shown(session)).toBe(1);
  });
  it("of one take never show as another's", async () => {
    const { session: a, around, server } = await opened("A");
    server.evaluating.open = false;
    const dragging = a.preview(weaker(7));
    a.close();
    const b = new TakeSession("B", around);
    const opening = b.open();
    await settle();
    server.evaluating.let();
    await Promise.all([dragging, opening]);
    expect(shown(b)).toBe(1);
    expect(shown(a)).toBe(1);
    expect(server.asked.filter((q) => q.request.take).every((q) => q.take === "A")).toBe(true);
  });
  it("go by the newest wish while one is under way", async () => {
    const { session, server } = await opened();
    server.evaluating.open = false;
    const before = server.asked.length;
    const all = [3, 4, 5, 6].map((v) => session.preview(weaker(v)));
    await settle();
    server.evaluating.let();
    await Promise.all(all);
    expect(shown(session)).toBe(6);
    expect(server.asked.length - before).toBe(2);
  });
  it("that come after an edit are of no use", async () => {
    const { session, server } = await opened();
    server.evaluating.open = false;
    const dragging = session.preview(weaker(7));
    const kept = session.edit("take", "weaker", [{ path: "tidy/steps/strength/gain", value: 7 }]);
    await settle();
    server.evaluating.let();
    await Promise.all([dragging, kept]);
    expect(shown(session)).toBe(2);
  });
  it("ask for what the deck shows first where a take is long", async () => {
    const { session, server } = await opened();
    session.state.setState((s) => ({ curves: { ...s.curves!, frames: 9000 } }));
    session.seen = { first: 2.5, last: 4.2 };
    const before = server.asked.length;
    await session.preview(weaker(7));
    const [seen, rest] = server.asked.slice(before).map((q) => q.request.pieces.find((p) => p.part === "tidied")!);
    expect(seen).toMatchObject({ first: 2, last: 5 });
    expect(rest!.first).toBeUndefined();
  });
});

describe("answers", () => {
  it("hold only what changed of a table that is held", async () => {
    const { session, server } = await opened();
    const { raw } = session.now.curves!;
    await session.edit("take", "weaker", [{ path: "tidy/steps/strength/gain", value: 2 }]);
    expect(session.now.curves!.raw).toBe(raw);
    expect(server.asked[server.asked.length - 1]!.request.pieces.find((p) => p.part === "raw")!.have).toBe("A raw");
  });
  it("that come after a session was closed change nothing and say nothing", async () => {
    const { session, around, server } = await opened();
    server.evaluating.open = false;
    const refreshing = session.refresh();
    session.close();
    server.evaluating.let();
    await refreshing;
    expect(around.said).toEqual([]);
    expect(session.now.revision).toBe(1);
  });
});

describe("documents of undo", () => {
  it("are those that are open, and what is worked on beside them", async () => {
    const { session } = await opened();
    session.setCompanion("card", "card 1");
    expect(session.documentIds).toEqual(["A", "cast of A", "join of A", "card 1"]);
    session.setCompanion("card", undefined);
    expect(session.documentIds).toEqual(["A", "cast of A", "join of A"]);
  });
  it("are undone in turn, and what is stored is shown", async () => {
    const { session, around } = await opened();
    await Promise.all([session.edit("take", "note", [{ path: "notes", value: "x" }]), session.travel("undo")]);
    expect(around.said).toEqual(["Undone: something"]);
  });
});

describe("weights set by hand", () => {
  it("are of the session and end with it", async () => {
    const { session } = await opened();
    session.tryTarget("jawOpen", 1);
    session.tryTarget("grin", 0.5);
    session.tryTarget("jawOpen", null);
    expect(session.now.tried).toEqual({ grin: 0.5 });
    session.stopTrying();
    expect(session.now.tried).toEqual({});
  });
});
