import { describe, expect, it } from "vitest";
import type { Body } from "../workspace/workspace";
import { waysOf } from "./stageScene";

const body = (root: number[] | null, rootJoint = "hips") =>
  ({ rootJoint, root: root && { data: new Float32Array(root), shape: [root.length / 3, 1, 3] } }) as unknown as Body;
const plain = (given: Body | null) => waysOf(given).map((way) => way.toArray());

describe("where a body goes", () => {
  it("is between the lowest and the highest of each way, for a stage that shows all of it", () => {
    expect(plain(body([0, 0, 0, 1, 0.5, -2, -1, 0, 3]))).toEqual([
      [-1, 0, -2],
      [1, 0.5, 3],
    ]);
  });
  it("is where it stands without a body, and with one that does not travel", () => {
    for (const given of [null, body(null), body([1, 2, 3], ""), body([])]) expect(plain(given)).toEqual([[0, 0, 0]]);
  });
});
