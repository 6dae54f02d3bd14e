import type { TakeBody } from "../api/client";
import { describe, expect, it } from "vitest";
import { carried, centred, cloudOf, distance, meanOf, nearest, partnerOf } from "./geometry";
import { layoutFor, placedOn, without } from "./layouts";
import { masked, nextPlace, type DotsBody } from "./dots";
import { alike, correctionsOf, nameFor, stretchesOf, type Correction } from "./byHand";

const table = (data: number[], ...shape: number[]) => ({ data: Float32Array.from(data), shape });
const doc = (id: string, performer: string) => ({
  id,
  production: "p",
  kind: "layout",
  version: 0,
  body: { performer },
});

describe("markers in space", () => {
  const cloud = cloudOf(["a", "b"], table([1, 0, 0, 0, 1, 0, NaN, NaN, NaN, 0, 3, 0], 2, 2, 3));
  it("are carried by a turn and a shift", () => {
    const made = carried(cloud, { rotation: [0, -1, 0, 1, 0, 0, 0, 0, 1], shift: [0, 0, 5] });
    expect([...made.points.slice(0, 6)]).toEqual([0, 1, 5, -1, 0, 5]);
    expect(made.points[6]).toBeNaN();
  });
  it("have a mean over the frames in which they are seen", () => {
    expect([...meanOf(cloud, 0, 1)]).toEqual([1, 0, 0, 0, 2, 0]);
  });
  it("are apart by millimetres", () => {
    expect(distance(cloud, 0, "a", "b")).toBeCloseTo(1000 * Math.SQRT2, 2);
    expect(distance(cloud, 1, "a", "b")).toBeNaN();
  });
  it("are centred with the stage's up turned to y", () => {
    const made = centred(cloudOf(["a", "b", "c"], table([0, 0, 0, 0, 0, 2, 0, 0, 1], 1, 3, 3)), "z");
    expect([...made.points].map((v) => v + 0)).toEqual([0, -1, 0, 0, 1, 0, 0, 0, 0]);
  });
  it("have a partner where the other side of the face is", () => {
    const neutral = Float32Array.from([0.03, 0, 0.01, -0.031, 0.001, 0.01, 0, 0.05, 0]);
    expect(partnerOf(["l", "r", "m"], neutral, "l")).toBe("r");
    expect(partnerOf(["l", "r", "m"], neutral, "m")).toBeNull();
  });
  it("are picked where they are drawn", () => {
    const places = Float32Array.from([10, 10, 20, 20, -1e6, -1e6]);
    expect(nearest(places, 18, 19, 14)).toBe(1);
    expect(nearest(places, 90, 90, 14)).toBe(-1);
  });
});

describe("a marker layout", () => {
  it("is the chosen one, else the performer's newest", () => {
    const all = [doc("1", "Mara"), doc("2", "Ivo"), doc("3", "Mara")];
    expect(layoutFor(all, "Mara", undefined)?.id).toBe("3");
    expect(layoutFor(all, "Mara", "2")?.id).toBe("2");
    expect(layoutFor(all, "Nobody", undefined)).toBeNull();
    expect(all[1]!.body.performer).toBe("Ivo");
  });
  it("switches markers on again", () =>
    expect(without({ a: true, b: true, c: true }, "a", null, "c")).toEqual({ b: true }));
  it("holds one marker on a place, and partners together", () => {
    const places = { a: "chin", b: "nose tip" };
    expect(placedOn(places, "c", "chin")).toEqual({ b: "nose tip", c: "chin" });
    expect(placedOn(places, "a", null)).toEqual({ b: "nose tip" });
    expect(placedOn(places, "a", "brow mid left", { label: "d", place: "brow mid right" })).toEqual({
      b: "nose tip",
      a: "brow mid left",
      d: "brow mid right",
    });
  });
});

describe("colour dots", () => {
  it("are marked by their colour, whatever the light", () => {
    const pixels = Uint8ClampedArray.from([80, 200, 120, 255, 40, 100, 60, 255, 190, 140, 115, 255, 4, 10, 6, 255]);
    masked(pixels, [[80, 200, 120]], 0.09);
    expect([3, 7, 11, 15].map((i) => pixels[i]! > 0)).toEqual([true, true, false, false]);
  });
  it("are offered place by place, past those that are held", () => {
    const body = {
      dots: { "dot 1": { place: "hairline", at: [0, 0], colour: [0, 0, 0], radius: 3 } },
    } as unknown as DotsBody;
    expect(nextPlace(body, "bridge of the nose")).toBe("hairline side right");
  });
});

describe("tracks put right by hand", () => {
  const put: Correction = { kind: "put", layout: "l", dot: "dot 1", frame: 9, at: [3, 4] };
  const body: Pick<TakeBody, "dots"> = {
    dots: {
      d1: put,
      d2: { kind: "split", layout: "l", dot: "dot 1", frame: 4 },
      d3: { kind: "drop", layout: "other", dot: "dot 1", first: 1, last: 2 },
    },
  };
  it("are those of the layout, by frame", () => {
    expect(correctionsOf(body, "l").map((c) => c.name)).toEqual(["d2", "d1"]);
    expect(correctionsOf({ dots: {} }, "l")).toEqual([]);
  });
  it("replace what was said of the same dot and frame", () => {
    expect(nameFor(body, { ...put, at: [8, 8] })).toBe("d1");
    expect(nameFor(body, { ...put, frame: 10 })).toMatch(/^d-[0-9a-f]{8}$/);
  });
  it("break a track where it is not seen and where it is split", () => {
    expect(stretchesOf([0, 1, 1, 0.5, 0, 1, 1, 1], [6])).toEqual([
      [1, 3],
      [5, 5],
      [6, 7],
    ]);
    expect(stretchesOf([0, 0], [])).toEqual([]);
  });
  it("wait for a solve until it was made with them", () => {
    const wanted = correctionsOf(body, "l");
    expect(alike({}, wanted)).toBe(false);
    expect(alike({ d1: put, d2: body.dots.d2! }, wanted)).toBe(true);
    expect(alike({ d1: { ...put, at: [0, 0] }, d2: body.dots.d2! }, wanted)).toBe(false);
  });
});
