import { describe, expect, it } from "vitest";
import { shotState } from "../../workspace/fakeShots";
import type { ShotState } from "../../workspace/state";
import {
  edgesOf,
  fallsShort,
  handOf,
  holdRows,
  holdsOf,
  holdWithEdge,
  newHold,
  propsOf,
  type Hand,
  type Prop,
} from "./propModel";

const hold = (more: Partial<Hand> = {}): Hand => ({
  role: "odile",
  side: "Right",
  first: 10,
  last: 40,
  at: [0, 0, 0],
  closed: 0.8,
  ...more,
});
const prop = (more: Partial<Prop> = {}): Prop => ({
  name: "lantern",
  source: "L",
  rank: 0,
  at: [0, 0, 0],
  turn: 0,
  size: 1,
  begins: "hand",
  hangs: false,
  plays: null,
  holds: {},
  ...more,
});
function shot(props: Record<string, Prop>): ShotState {
  const made = shotState();
  made.opened.shot.body.props = props;
  return made;
}

describe("props of a shot", () => {
  it("are in the order in which they were brought, their holds in that of time", () => {
    const made = shot({ b: prop({ rank: 0 }), a: prop({ rank: 1 }) });
    expect(propsOf(made).map(([key]) => key)).toEqual(["b", "a"]);
    const both = prop({ holds: { late: hold({ first: 30 }), early: hold({ first: 5 }) } });
    expect(holdsOf(both).map(([key]) => key)).toEqual(["early", "late"]);
  });
  it("say whose hand holds them, also of a role that is gone", () => {
    expect(handOf(shot({}), hold())).toBe("Mara Quill, right hand");
    expect(handOf(shot({}), hold({ role: "nobody", side: "Left" }))).toBe("nobody, left hand");
  });
  it("say when a hand stays away, and when there is none", () => {
    expect([0, 0.004, undefined].map(fallsShort)).toEqual(["", "", ""]);
    expect(fallsShort(0.187)).toBe("stays 19 cm away from it");
    expect(fallsShort(null)).toBe("this character has no such hand");
  });
});

describe("holds", () => {
  it("keep an edge before the other, within the shot, in whole frames", () => {
    expect(holdWithEdge(hold(), "first", 55)).toMatchObject({ first: 40, last: 40 });
    expect(holdWithEdge(hold(), "last", 3)).toMatchObject({ first: 10, last: 10 });
    expect(holdWithEdge(hold(), "first", -7.4).first).toBe(0);
    expect(holdWithEdge(hold(), "last", 50.6).last).toBe(51);
  });
  it("are dragged as two leaves, which another person's change of the hand does not touch", () => {
    expect(edgesOf("p", "h", hold({ first: 12 })).map((c) => [c.path, c.value])).toEqual([
      ["props/p/holds/h/first", 12],
      ["props/p/holds/h/last", 40],
    ]);
  });
  it("begin at the playhead with the right hand of the role that is worked on, then hands that are free", () => {
    const made = shot({});
    expect(newHold(made, prop(), 100, 60)).toEqual(hold({ first: 100, last: 159 }));
    const busy = prop({ holds: { a: hold({ first: 90, last: 100 }) } });
    expect(newHold(made, busy, 100, 60)).toMatchObject({ role: "odile", side: "Left" });
    const all = ["odile", "brindle"].flatMap((role) =>
      (["Left", "Right"] as const).map((side) => hold({ role, side, last: 500 })),
    );
    expect(newHold(made, prop({ holds: Object.fromEntries(all.map((h, n) => [`h${n}`, h])) }), 100, 60)).toBeNull();
  });
  it("are bars in the row of their prop, where one is dragged as it is by then", () => {
    const made = shot({ p: prop({ holds: { h: hold() } }), q: prop({ name: "oar", rank: 1 }) });
    const { rows, spans, props } = holdRows(made, { prop: "p", key: "h", now: hold({ last: 77 }) });
    expect(rows.map((r) => r.word)).toEqual(["lantern", "oar"]);
    expect(props).toEqual(["p", "q"]);
    expect(spans).toEqual([{ key: "p h", row: 0, first: 10, last: 77, byHand: false, word: "Mara Quill, right hand" }]);
  });
  it("have rows of their own while several hands are on a prop at once", () => {
    const [a, d] = [hold(), hold({ first: 70, last: 80 })];
    const holds = { a, b: hold({ first: 30, last: 90 }), c: hold({ first: 50, last: 60 }), d };
    const { rows, spans, props } = holdRows(shot({ p: prop({ holds }), q: prop({ rank: 1 }) }), null);
    expect(spans.map((s) => [s.key, s.row])).toEqual([
      ["p a", 0],
      ["p b", 1],
      ["p c", 0],
      ["p d", 0],
    ]);
    expect(props).toEqual(["p", "p", "q"]);
    expect(rows).toHaveLength(3);
  });
});
