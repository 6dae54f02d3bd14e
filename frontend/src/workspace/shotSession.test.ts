import { describe, expect, it } from "vitest";
import { Problem } from "../api/client";
import { useKeys } from "../keys/keys";
import { surroundings } from "./fakeServer";
import { FakeShots, layer, RIG } from "./fakeShots";
import { ShotSession } from "./shotSession";

async function opened() {
  const server = new FakeShots();
  const around = surroundings(server);
  const session = new ShotSession("S", around);
  await session.open();
  return { session, server, around };
}
const curve = (session: ShotSession) => session.now.curves!.tidied.data[0];

describe("opening a shot", () => {
  it("evaluates each role, works on the first, opens its top layer, plays the mix", async () => {
    const { session, server, around } = await opened();
    expect(server.evaluated.sort()).toEqual(["brindle", "odile"]);
    expect(session.shot).toMatchObject({ role: "odile", layer: "lip", takes: { clip: "now" } });
    expect(curve(session)).toBe(1);
    expect(around.player.sound).toBe("sound of S 1");
  });
  it("undoes over the shot, its layers and its cast sheets", async () => {
    expect((await opened()).session.documentIds).toEqual(["S", "lip", "clip"]);
  });
});

describe("props of a shot", () => {
  const lantern = (holds = {}) => ({
    name: "lantern",
    source: "L",
    rank: 0,
    at: [0, 0, 0] as [number, number, number],
    turn: 0,
    size: 1,
    begins: "hand" as const,
    hangs: false,
    plays: null,
    holds,
  });
  const hold = {
    role: "odile",
    side: "Left" as const,
    first: 0,
    last: 9,
    at: [0, 0, 0] as [number, number, number],
    closed: 0.8,
  };
  async function withProp(holds = {}) {
    const server = new FakeShots();
    server.held.shot.body.props = { p: lantern(holds) };
    const session = new ShotSession("S", surroundings(server));
    await session.open();
    server.evaluated.length = 0;
    return { session, server };
  }
  it("go where the role that was worked out last has them, with hands that fall short", async () => {
    const { session } = await withProp({ h: hold });
    expect(session.shot!.props).toMatchObject({ columns: ["p"], short: { h: 0.25 } });
    await session.edit("S", "grip", [{ path: "props/p/holds/h/first", value: 3 }]);
    expect(session.shot!.props!.table.data[0]).toBe(2);
  });
  it("let one role's change be worked out for all, while hands hold one: an arm of another can come along", async () => {
    const { session, server } = await withProp({ h: hold });
    await session.edit("lip", "span", [{ path: "spans/a", value: {} }]);
    expect(server.evaluated.sort()).toEqual(["brindle", "odile"]);
  });
  it("leave a change to its own role while nobody holds one", async () => {
    const { session, server } = await withProp();
    await session.edit("lip", "span", [{ path: "spans/a", value: {} }]);
    expect(server.evaluated).toEqual(["odile"]);
  });
  it("are none in a shot without any", async () => {
    expect((await opened()).session.shot!.props).toBeNull();
  });
});

describe("changing a shot", () => {
  it("evaluates only the role of a layer that is changed", async () => {
    const { session, server } = await opened();
    server.evaluated.length = 0;
    await session.edit("lip", "span", [{ path: "spans/a", value: {} }]);
    expect(server.evaluated).toEqual(["odile"]);
    expect(curve(session)).toBe(2);
    expect(session.layer!.version).toBe(2);
  });
  it("evaluates nothing for what no curve depends on", async () => {
    const { session, server } = await opened();
    server.evaluated.length = 0;
    await session.edit("lip", "lock", [{ path: "locked", value: true }]);
    await session.edit("S", "name", [{ path: "name", value: "x" }]);
    expect(server.evaluated).toEqual([]);
  });
  it("mixes the sound anew only where clips or sounds changed", async () => {
    const { session, server } = await opened();
    await session.edit("S", "capture", [{ path: "roles/odile/capture/jaw", value: { value: 0.5 } }]);
    expect(server.sounds).toBe(1);
    await session.edit("S", "move", [{ path: "roles/odile/placements/one/start", value: "1" }]);
    expect(server.sounds).toBe(2);
  });
  it("makes two changes one after the other, each on the version before it", async () => {
    const { session, server, around } = await opened();
    await Promise.all([
      session.edit("lip", "a", [{ path: "spans/a", value: {} }]),
      session.edit("lip", "b", [{ path: "spans/b", value: {} }]),
    ]);
    expect(server.sent.map((s) => s.changes[0]!.path)).toEqual(["spans/a", "spans/b"]);
    expect(around.said).toEqual([]);
  });
  it("shows what is stored again after a change that was refused", async () => {
    const { session, server, around } = await opened();
    server.refuse = new Problem(409, "Ivo changed this meanwhile");
    await session.edit("lip", "a", [{ path: "spans/a", value: {} }]);
    expect(around.said).toEqual(["Ivo changed this meanwhile"]);
    expect(session.now.saving).toBe(0);
  });
  it("cuts on the version that it holds and shows all roles again", async () => {
    const { session, server } = await opened();
    server.evaluated.length = 0;
    await session.cut({ do: "split", label: "split a clip", role: "odile", placement: "one", at: "1" });
    expect(server.cuts[0]).toMatchObject({ do: "split", version: 1, at: "1", seconds: "0" });
    expect(server.evaluated.sort()).toEqual(["brindle", "odile"]);
  });
  it("opens a layer that it adds", async () => {
    const { session } = await opened();
    await session.addLayer("blinks", "add");
    expect(session.layer!.body.name).toBe("blinks");
    expect(session.documentIds).toContain("layer 2");
  });
});

describe("what is only wished for", () => {
  it("is shown and not kept", async () => {
    const { session } = await opened();
    await session.preview({ layers: { lip: [{ path: "spans/a", value: {} }] } });
    expect(curve(session)).toBe(100);
    await session.refresh();
    expect(curve(session)).toBe(1);
  });
  it("gives way to a change that is made meanwhile", async () => {
    const { session, server } = await opened();
    server.evaluating.open = false;
    const tried = session.preview({ layers: { lip: [] } });
    const kept = session.edit("lip", "a", [{ path: "spans/a", value: {} }]);
    server.evaluating.let();
    await Promise.all([tried, kept]);
    expect(curve(session)).toBe(2);
  });
});

describe("roles and layers", () => {
  it("shows the curves of another role and opens a layer of its own, or none", async () => {
    const { session } = await opened();
    session.choose("brindle");
    expect(session.shot).toMatchObject({ role: "brindle", layer: null });
    session.choose("odile");
    expect(session.shot).toMatchObject({ role: "odile", layer: "lip" });
  });
  it("reads nothing after it was closed", async () => {
    const { session, server } = await opened();
    session.close();
    server.evaluated.length = 0;
    await session.reload();
    expect(server.evaluated).toEqual([]);
  });
});

describe("keys of the open layer", () => {
  const edit = { do: "draw", channels: { jawOpen: [] } };
  it("are edited on its newest version, and what was done is said", async () => {
    const { session, server } = await opened();
    await Promise.all([session.editKeys("draw", edit), session.editKeys("draw on", edit)]);
    expect(server.keyed).toEqual(["lip 1 draw", "lip 2 draw on"]);
    expect(session.layer!.version).toBe(3);
    expect(await session.editKeys("again", edit)).toMatchObject({ jawOpen: { keys: 1 } });
  });
  it("are tried without being kept", async () => {
    const { session, server } = await opened();
    server.evaluated.length = 0;
    session.tryKeys(edit);
    await expect.poll(() => server.evaluated).toEqual(["odile"]);
    expect(server.keyed).toEqual([]);
  });
  it("need a layer", async () => {
    const { session, server, around } = await opened();
    session.openLayer(null);
    expect(await session.editKeys("draw", edit)).toBeNull();
    expect(server.keyed).toEqual([]);
    expect(around.said).toEqual(["no layer is open: add one at Layers"]);
    expect(session.hand).toEqual({});
  });
  it("are chosen of one layer only", async () => {
    const { session } = await opened();
    useKeys.setState({ chosen: { jawOpen: [3] } });
    session.openLayer("lip");
    expect(useKeys.getState().chosen).toEqual({ jawOpen: [3] });
    session.openLayer(null);
    expect(useKeys.getState().chosen).toEqual({});
  });
});

describe("snags of the role that is worked on", () => {
  it("are mended in a layer that is open then, the same one each time", async () => {
    const { session, server } = await opened();
    server.evaluated.length = 0;
    await session.mendSnags(["a"]);
    expect(session.layer).toMatchObject({ id: "mends", version: 1 });
    await session.mendSnags(["b"]);
    expect(session.shot!.opened.layers.map((l) => `${l.id} ${l.version}`)).toEqual(["lip 1", "mends 2"]);
    expect(server.evaluated).toEqual(["odile", "odile"]);
  });
  it("are let be in the role, and nothing is evaluated for it", async () => {
    const { session, server } = await opened();
    server.evaluated.length = 0;
    await session.dismissSnag("pop", "dismiss", { kind: "pop", reason: "meant", first: 1, last: 2 });
    await session.dismissSnag("pop", "look again", null);
    expect(server.sent.map((s) => s.changes[0]!.path)).toEqual(Array(2).fill("roles/odile/dismissed/pop"));
    expect(server.evaluated).toEqual([]);
  });
  it("are another list for another role", async () => {
    const { session } = await opened();
    expect(session.snagsOf).toBe("S odile");
    session.choose("brindle");
    expect(session.snagsOf).toBe("S brindle");
  });
  it("show a mend without keeping it", async () => {
    const { session } = await opened();
    const tried = await session.tried({ mends: ["a"] });
    expect(tried!.curves!.tidied.data[0]).toBe(100);
    session.draw(tried!);
    expect(curve(session)).toBe(100);
  });
});

describe("a touch-up layer", () => {
  const touchup = (more = {}) => layer("corner", { character: RIG, rank: 0.5, ...more });
  async function withTouchup(more = {}, plays = RIG) {
    const server = new FakeShots();
    server.held.shot.body.roles.odile!.character = plays;
    server.held.layers.push(touchup(more));
    const around = surroundings(server);
    const session = new ShotSession("S", around);
    await session.open();
    return { session, server, around };
  }
  /** Until what was begun beside the queue has come. */
  const settled = () => new Promise((done) => setTimeout(done));

  it("is not the one that is open at first, though it lies above the others", async () => {
    const { session, server } = await withTouchup();
    expect(session.shot!.layer).toBe("lip");
    expect(session.shownOnRig).toBeNull();
    expect(server.rigs).toEqual([]);
  });
  it("brings its character's rig and the curves of what it changes when it is opened", async () => {
    const keys = { "target mouthSmileLeft": { a: [3, 0.2, 0, 0, "smooth"] } };
    const { session, server } = await withTouchup({ keys });
    session.openLayer("corner");
    await settled();
    expect(server.rigs).toEqual(["odile"]);
    expect(session.shownOnRig).toEqual(["target mouthSmileLeft"]);
    expect(session.now.rig!.channels).toEqual(["target mouthSmileLeft"]);
    expect(session.channels).toContain("joint head turn x");
    session.openLayer("lip");
    session.openLayer("corner");
    await settled();
    expect(server.rigs).toEqual(["odile"]);
  });
  it("shows what is chosen of the rig, and asks for nothing of it once another layer is open", async () => {
    const { session, server } = await withTouchup();
    session.openLayer("corner");
    await settled();
    await session.showOnRig(["joint head turn x", "joint head turn y"]);
    expect(session.now.rig!.channels).toEqual(["joint head turn x", "joint head turn y"]);
    session.openLayer("lip");
    server.onRig.length = 0;
    await session.refresh(["odile"]);
    expect(server.onRig).toEqual([[]]);
    expect(session.channels).toEqual(["jawOpen"]);
  });
  it("is made on the rig and open then", async () => {
    const { session } = await withTouchup();
    await session.addLayer("touch-up 1", "add", true);
    expect(session.layer!.body).toMatchObject({ name: "touch-up 1", character: RIG });
    expect(session.shot!.rig!.rows).toHaveLength(3);
  });
  it("waits while another character plays the role", async () => {
    const { session, server } = await withTouchup({}, "somebody else");
    session.openLayer("corner");
    await settled();
    expect(server.rigs).toEqual([]);
    expect(session.shownOnRig).toEqual([]);
  });
  it("forgets the rig when another character takes over", async () => {
    const { session, server } = await withTouchup();
    session.openLayer("corner");
    await settled();
    server.held.shot.body.roles.odile!.character = "somebody else";
    await session.reload();
    expect(session.shot!.rig).toBeNull();
    expect(session.shot!.layer).toBe("corner");
  });
});
