import { describe, expect, it } from "vitest";
import type { Bundle } from "../api/bundle";
import { turnFor } from "../desks/solve/footageJobs";
import { faceSquare } from "../desks/solve/pictures";
import { uploadKey } from "../api/upload";
import { inPicture, placed, pointAt } from "./footage";
import { headModel, normals, poseAt, shaped } from "./headModel";
import { felt, sameAs, type Tacks } from "./tacks";

const table = (data: number[], ...shape: number[]) => ({ data: Float32Array.from(data), shape });
// Two triangles in one plane, one shape that lifts the second vertex.
const bundle: Bundle = {
  head: { fov: 40, first: 2 },
  arrays: {
    points: table([0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0], 4, 3),
    shapes: table([0, 0, 0, 0, 0, 2, 0, 0, 0, 0, 0, 0], 1, 4, 3),
    eyes: table([0, 0, 0, 0, 0, 0], 2, 3),
    poses: table([NaN, NaN, NaN, NaN, NaN, NaN, NaN, 0, 0, 0, 1, 0.1, 0.2, -0.5], 2, 7),
    corners: table([0, 1, 2, 3], 4),
    uv: table([0, 0, 1, 0, 0, 1, 1, 1], 4, 2),
    triangles: table([0, 1, 2, 1, 3, 2], 2, 3),
    part: table([0, 0], 2),
    paint: table([0, 0], 2, 1, 1),
  },
};

describe("the capture head", () => {
  const model = headModel(bundle);
  it("adds shapes by their weights", () => {
    const out = new Float32Array(12);
    shaped(model, [0.5], out);
    expect(out[5]).toBe(1);
    shaped(model, [0], out);
    expect([...out]).toEqual([...model.points]);
  });
  it("goes along the jaw's arc where one is given: not shut, not wide open", () => {
    const arched = headModel({
      head: { ...bundle.head, jaw: 0 },
      arrays: { ...bundle.arrays, arc: table([0, 0, 0, 0, 0, 0, 0, 0, 4, 0, 0, 0], 4, 3) },
    });
    const out = new Float32Array(12);
    const lifted = [0, 0.5, 1].map((weight) => {
      shaped(arched, [weight], out);
      return [out[5], out[8]];
    });
    expect(lifted).toEqual([
      [0, 0],
      [1, 1],
      [2, 0],
    ]);
  });
  it("has unit normals that look out of the plane", () => {
    const out = new Float32Array(12);
    normals(model.points, model, out);
    for (let i = 0; i < 4; i++) expect([...out.subarray(i * 3, i * 3 + 3)]).toEqual([0, 0, 1]);
  });
  it("stands where it was seen last or next where no face is seen", () => {
    expect(poseAt(model, 0)[6]).toBe(-0.5);
    expect(poseAt(model, 99)[4]).toBeCloseTo(0.1);
  });
});

describe("tacks", () => {
  const tacks: Tacks = {
    p1: { frame: 10, span: 4, shape: "jawOpen", value: 1 },
    p3: { frame: 10, span: 0, point: 61, x: 1, y: 2 },
  };
  it("fade over their span and end", () => {
    expect(felt(tacks.p1!, 10)).toBe(1);
    expect(felt(tacks.p1!, 12)).toBeGreaterThan(felt(tacks.p1!, 13));
    expect(felt(tacks.p1!, 15)).toBe(0);
    expect(felt(tacks.p3!, 11)).toBe(0);
  });
  it("take the place of one that sets the same", () => {
    expect(sameAs(tacks, { frame: 10, span: 9, shape: "jawOpen", value: 0 })).toBe("p1");
    expect(sameAs(tacks, { frame: 10, span: 9, point: 61, x: 0, y: 0 })).toBe("p3");
    expect(sameAs(tacks, { frame: 11, span: 9, shape: "jawOpen", value: 0 })).toBeUndefined();
  });
  it("are taken at the nearest drawn point, in pixels of the picture", () => {
    const face = new Float32Array(478 * 2).fill(500);
    face.set([100, 50], 61 * 2);
    const at = placed(200, 200, 400, 400);
    expect(pointAt(face, at, 203, 101)).toEqual({ point: 61, x: 100, y: 50 });
    expect(pointAt(face, at, 240, 101)).toBeNull();
    expect(inPicture(at, 203, 101)).toEqual({ x: 101.5, y: 50.5 });
  });
});

describe("pictures of samples", () => {
  it("show the face, whole and within the picture", () => {
    const { x, y, side } = faceSquare(Float32Array.of(90, 40, 110, 80), 200, 100);
    expect(side).toBeCloseTo(44);
    expect(x + side / 2).toBeCloseTo(100);
    expect(y + side / 2).toBeCloseTo(60);
    expect(faceSquare(Float32Array.of(5, 5, 15, 45), 200, 100).x).toBe(0);
    expect(faceSquare(Float32Array.of(NaN, NaN), 200, 100)).toEqual({ x: 50, y: 0, side: 100 });
  });
  it("find the head turn of a performer", () => {
    const take = (slate: string, performer: string, notes = "") => ({ slate, performer, notes }) as never;
    expect(turnFor([take("9A / 2 turn", "Mara"), take("9B", "Ivo", "turns left")], "Mara")).toMatchObject({
      slate: "9A / 2 turn",
    });
    expect(turnFor([take("9A", "Mara")], "Mara")).toBeUndefined();
  });
});

describe("a file that is sent again", () => {
  it("is known by its name, size and time", () => {
    const file = { name: "a.mp4", size: 5, lastModified: 7 };
    expect(uploadKey("p", file)).toBe(uploadKey("p", { ...file }));
    expect(uploadKey("p", file)).not.toBe(uploadKey("p", { ...file, size: 6 }));
  });
});
