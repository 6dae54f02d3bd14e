// Aims and looks of a shot: what can be looked at, and where a look goes.
import { describe, expect, it } from "vitest";
import { layer, openedShot, shotState } from "../../workspace/fakeShots";
import { choicesOf, gazeOf, lookChange, newAim, othersOf } from "./aims";

const gaze = (id: string, more = {}) =>
  layer(id, { makers: { g: { maker: "gaze", on: true, rank: 1, looks: { a: [10, "lamp"] } } as never }, ...more });
const withAims = (layers = [layer("lip")]) => {
  const opened = openedShot(layers);
  opened.shot.body.aims = { lamp: { name: "lamp", lies: "point", at: [0, 1, 1], role: null, prop: null } };
  return shotState({ opened, layer: layers[0]!.id });
};

describe("aims", () => {
  it("are offered by name, after them what is no aim", () => {
    const shot = withAims();
    shot.opened.shot.body.aims.mine = { name: "own eyes", lies: "eyes", at: [0, 0, 0], role: "odile", prop: null };
    shot.opened.shot.body.aims.his = { name: "his eyes", lies: "eyes", at: [0, 0, 0], role: "brindle", prop: null };
    expect(choicesOf(shot).map((c) => c.key)).toEqual(["his", "lamp", "captured", "held"]);
  });
  it("begin with a name that says what they are, and numbers where there are more", () => {
    const shot = withAims();
    expect(newAim(shot, "point")).toMatchObject({ name: "point 2", lies: "point", at: [0.5, 1.5, 1] });
    expect(newAim(shot, "camera")).toEqual({ name: "camera", lies: "camera" });
    expect(newAim(shot, "eyes", "brindle")).toMatchObject({ lies: "eyes", role: "brindle" });
    expect(newAim(shot, "head").name).toBe("held before the face");
    shot.opened.shot.body.props = { p1: { name: "lantern" } as never };
    expect(newAim(shot, "prop", "p1")).toEqual({ name: "lantern", lies: "prop", prop: "p1" });
  });
  it("are the eyes of the others, never of the role itself", () => {
    expect(othersOf(withAims())).toEqual(["brindle"]);
  });
});

describe("looks", () => {
  it("go into the gaze maker of the open layer before that of another", () => {
    expect(gazeOf(withAims([gaze("one"), gaze("two", { rank: 2 })]))!.layer.id).toBe("one");
    expect(gazeOf(withAims([layer("lip"), gaze("two")]))!.layer.id).toBe("two");
  });
  it("go into no locked layer, and none without a gaze maker", () => {
    expect(gazeOf(withAims([gaze("one", { locked: true })]))).toBeNull();
    expect(gazeOf(withAims())).toBeNull();
  });
  it("take the place of a look on the same frame, and stand beside others", () => {
    expect(lookChange("g", { a: [10, "lamp"] }, 10, "camera")).toEqual({
      path: "makers/g/looks/a",
      value: [10, "camera"],
    });
    const beside = lookChange("g", { a: [10, "lamp"] }, 11, "lamp");
    expect(beside.path).toMatch(/^makers\/g\/looks\/l-/);
    expect(beside.value).toEqual([11, "lamp"]);
  });
});
