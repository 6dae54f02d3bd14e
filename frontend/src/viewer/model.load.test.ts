// A character's model as it is read from the bytes of a file.
import { describe, expect, it, vi } from "vitest";
import { CharacterModel } from "./model";

vi.stubGlobal("self", globalThis);

/** A .glb of one triangle with one target; what else its document says. */
function triangle(more: Record<string, unknown> = {}): ArrayBuffer {
  const floats = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0.5]);
  const document = {
    asset: { version: "2.0" },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ name: "face", mesh: 0 }],
    meshes: [
      { primitives: [{ attributes: { POSITION: 0 }, targets: [{ POSITION: 1 }] }], extras: { targetNames: ["smile"] } },
    ],
    accessors: [0, 1].map((at) => ({
      bufferView: 0,
      byteOffset: 36 * at,
      componentType: 5126,
      count: 3,
      type: "VEC3",
      min: [0, 0, 0],
      max: [1, 1, 1],
    })),
    bufferViews: [{ buffer: 0, byteLength: 72 }],
    buffers: [{ byteLength: 72 }],
    ...more,
  };
  let text = JSON.stringify(document);
  while (text.length % 4) text += " ";
  const out = new ArrayBuffer(12 + 8 + text.length + 8 + 72);
  const view = new DataView(out);
  [0x46546c67, 2, out.byteLength, text.length, 0x4e4f534a].forEach((v, i) => view.setUint32(4 * i, v, true));
  new Uint8Array(out).set(new TextEncoder().encode(text), 20);
  view.setUint32(20 + text.length, 72, true);
  view.setUint32(24 + text.length, 0x004e4942, true);
  new Uint8Array(out).set(new Uint8Array(floats.buffer), 28 + text.length);
  return out;
}

const body = (weight: number) => ({
  targets: ["smile"],
  still: [] as [string, string][],
  weights: { data: Float32Array.of(weight), shape: [1, 1] as [number, number] },
  joints: [],
  motion: { data: new Float32Array(0), shape: [1, 0, 4] as [number, number, number] },
  rootJoint: "",
  root: null,
  shifted: [],
  shifts: { data: new Float32Array(0), shape: [1, 0, 3] as [number, number, number] },
  kept: [],
  crossings: [],
});

describe("a model from a file", () => {
  it("is there without a material, and moves", async () => {
    const model = new CharacterModel();
    expect(await model.load(triangle())).toEqual(["smile"]);
    expect(model.box()!.isEmpty()).toBe(false);
    model.pose(body(0.7), 0, {});
    const lifted = model.place.getObjectByName("face") as { morphTargetInfluences?: number[] } | undefined;
    expect(lifted?.morphTargetInfluences?.[0]).toBeCloseTo(0.7);
  });

  it("is there when its nodes have no names", async () => {
    const model = new CharacterModel();
    expect(await model.load(triangle({ nodes: [{ mesh: 0 }] }))).toEqual(["smile"]);
  });

  it("is refused with what is wrong when the file is damaged", async () => {
    const model = new CharacterModel();
    await expect(model.load(triangle().slice(0, 60))).rejects.toThrow();
    expect(model.box()).toBeNull();
  });

  it("is the one that was asked for last", async () => {
    const model = new CharacterModel();
    const first = model.load(triangle());
    const second = model.load(triangle({ nodes: [{ name: "other", mesh: 0 }] }));
    expect([await first, await second]).toEqual([[], ["smile"]]);
    expect(model.place.children).toHaveLength(1);
  });
});
