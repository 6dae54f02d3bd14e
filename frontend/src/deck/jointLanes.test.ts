import { describe, expect, it } from "vitest";
import { testStage } from "../timekit/testStage";
import { Pyramids } from "./deckModel";
import { jointLanes, jointLines } from "./jointLanes";

const columns = ["x", "y", "z"].flatMap((a) => [`joint hips turn ${a}`, `joint hips at ${a}`, `joint hand turn ${a}`]);
const given = { columns, table: { data: Float32Array.from({ length: 90 }, (_, i) => i), shape: [10, 9] } };

describe("lanes of joints", () => {
  it("are one for turns and one for heights, of the joints that have that look", () => {
    const watched = { hips: ["turn", "height"], hand: ["turn"] } as never;
    const lines = jointLines(given, watched, "turn", false, new Pyramids());
    expect(lines.map((c) => c.name)).toEqual(
      ["hips", "hand"].flatMap((j) => ["y", "x", "z"].map((a) => `${j} turn ${a}`)),
    );
    expect(lines.map((c) => c.dashed)).toEqual([false, false, false, true, true, true]);
    expect(jointLines(given, watched, "height", false, new Pyramids()).map((c) => c.name)).toEqual(["height of hips"]);
    expect(jointLanes(given, watched, false, new Pyramids()).map((t) => t.id)).toEqual([
      "joints turn",
      "joints height",
    ]);
  });
  it("are none without curves, or where only trails are looked at", () => {
    expect(jointLanes(null, { hips: ["turn"] }, false, new Pyramids())).toEqual([]);
    expect(jointLanes(given, { hips: ["trail"] }, false, new Pyramids())).toEqual([]);
  });
  it("say what they show and the value under the pointer", () => {
    const [lane] = jointLanes(given, { hips: ["height"] }, false, new Pyramids());
    const stage = testStage();
    lane!.draw(stage, { top: 10, height: 74 });
    expect(stage.calls.map((c) => c.args[0])).toContain("metres up: hips");
  });
});
