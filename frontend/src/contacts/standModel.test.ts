import { describe, expect, it } from "vitest";
import { adding, asFound, keyOf, removing, sameSpan, setting, withEdge, type Contacts, type Stand } from "./standModel";

const clock = { begins: 3, rate: 60 };
const found: Stand = { side: "Left", first: 60, last: 120, key: "" };
const held: Stand = { side: "Left", first: 60, last: 150, key: "a" };
const contacts: Contacts = { a: { side: "Left", first: 4, last: 5.5, stands: true, over: [4, 5] } };

describe("spans in which feet stand", () => {
  it("are known by their id, or by foot and place", () => {
    expect([keyOf(found), keyOf(held)]).toEqual(["Left 60", "a"]);
  });
  it("are known again under another key by side and time", () => {
    expect(sameSpan(found, held)).toBe(true);
    expect(sameSpan(found, { ...held, side: "Right" })).toBe(false);
    expect(sameSpan(found, { ...held, first: 121 })).toBe(false);
  });
  it("keep an edge before the other", () => {
    expect(withEdge(found, "first", 200).first).toBe(118);
    expect(withEdge(found, "last", 0).last).toBe(62);
    expect(withEdge(found, "first", 30)).toEqual({ ...found, first: 30 });
  });
  it("are set in seconds of the body, in the place of what was found", () => {
    expect(setting({ ...found, last: 180 }, found, "n", {}, clock)).toEqual({
      path: "contacts/n",
      value: { side: "Left", first: 4, last: 6, stands: true, over: [4, 5] },
    });
  });
  it("go on saying what they came from", () => {
    expect(setting({ ...held, first: 90 }, held, "a", contacts, clock).value).toMatchObject({
      first: 4.5,
      over: [4, 5],
    });
  });
  it("never begin before the body does", () => {
    expect(setting({ ...found, first: -600 }, found, "n", {}, clock).value).toMatchObject({ first: 0 });
  });
  it("are added about a frame, on the foot of the row", () => {
    expect(adding(1, 120, "n", clock)).toEqual({
      path: "contacts/n",
      value: { side: "Right", first: 4.85, last: 5.15, stands: true, over: null },
    });
  });
  it("are taken away: what was found is said to be none, what was added is no more", () => {
    expect(removing(found, "n", {}, clock).value).toMatchObject({ first: 4, last: 5, stands: false });
    expect(removing(held, "a", contacts, clock).value).toMatchObject({ stands: false, over: [4, 5] });
    const added: Contacts = { a: { ...contacts.a!, over: null } };
    expect(removing(held, "a", added, clock)).toEqual({ path: "contacts/a", remove: true });
    expect(asFound(held)).toEqual({ path: "contacts/a", remove: true });
  });
});
