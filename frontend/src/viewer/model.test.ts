import { describe, expect, it } from "vitest";
import { columnsOf } from "./model";

describe("where a mesh's targets stand among a take's weights", () => {
  const body = {
    targets: ["jaw", "smile", "blink"],
    still: [
      ["teeth", "smile"],
      ["face", "blink"],
    ] as [string, string][],
  };

  it("is found by name, in the mesh's own order", () => {
    expect(columnsOf("hood", ["blink", "jaw", "smile"], body)).toEqual([2, 0, 1]);
  });

  it("is nowhere for a target that the take does not move", () => {
    expect(columnsOf("hood", ["wink", "jaw"], body)).toEqual([-1, 0]);
  });

  it("is nowhere for a target that is held still on this mesh, and on no other", () => {
    expect(columnsOf("teeth", ["smile", "blink"], body)).toEqual([-1, 2]);
    expect(columnsOf("face", ["smile", "blink"], body)).toEqual([1, -1]);
  });
});
