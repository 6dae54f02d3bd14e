import { describe, expect, it } from "vitest";
import { Trails, trailOf } from "./trails";

const columns = ["joint a at x", "joint a at y", "joint a at z", "joint b turn x"];
const curves = { columns, table: { data: new Float32Array([1, 2, 3, 9, 4, 5, 6, 9]), shape: [2, 4] } };

describe("trails", () => {
  it("are the places of a joint, frame by frame", () => {
    expect([...trailOf(curves, "a")!]).toEqual([1, 2, 3, 4, 5, 6]);
    expect(trailOf(curves, "b")).toBeNull();
  });
  it("are there for joints that are looked at so, with a mark where each is now", () => {
    const trails = new Trails();
    trails.show(curves, { a: ["trail"], b: ["trail"] }, 1);
    expect(trails.group.children).toHaveLength(2);
    expect(trails.group.children[1]!.position.toArray()).toEqual([4, 5, 6]);
    trails.show(curves, { a: ["turn"] }, 1);
    expect(trails.group.children).toHaveLength(0);
    trails.show(null, { a: ["trail"] }, 9);
    expect(trails.group.children).toHaveLength(0);
    trails.dispose();
  });
});
