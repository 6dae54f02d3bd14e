import { beforeEach, describe, expect, it, vi } from "vitest";
import { api } from "../api/client";
import { SeenPoints } from "./seenPoints";

/** Landmarks whose first number is their frame's. */
const rows = (first: number, last: number) => {
  const shape = [last - first + 1, 478, 2];
  const data = new Float32Array(shape[0]! * 956);
  for (let n = 0; n < shape[0]!; n++) data[n * 956] = first + n;
  return { meta: {}, arrays: { points: { data, shape } } };
};

describe("landmarks of footage in the page", () => {
  const asked: [number, number][] = [];
  beforeEach(() => {
    asked.length = 0;
    vi.spyOn(api, "points").mockImplementation((_, first, last) => {
      asked.push([first, last]);
      return Promise.resolve(rows(first, last) as never);
    });
  });

  it("come a window at a time, and say when they have come", async () => {
    const came = vi.fn();
    const seen = new SeenPoints("a", 200_000);
    const off = seen.onArrive(came);
    expect(seen.at(700)).toBeNull();
    expect((await seen.load(700))![0]).toBe(700);
    expect(seen.at(700)![0]).toBe(700);
    expect(came).toHaveBeenCalledTimes(1);
    expect(asked).toEqual([[512, 1023]]);
    off();
    await seen.load(0);
    expect(came).toHaveBeenCalledTimes(1);
  });

  it("are asked for ahead of the playhead", () => {
    new SeenPoints("a", 200_000).at(900);
    expect(asked).toEqual([
      [1024, 1535],
      [512, 1023],
    ]);
  });

  it("are those of the nearest frame beyond the clip's ends", async () => {
    const seen = new SeenPoints("a", 40);
    expect((await seen.load(-3))![0]).toBe(0);
    expect((await seen.load(99))![0]).toBe(39);
    expect(asked).toEqual([[0, 39]]);
  });

  it("are let go of but for the windows that were looked at last", async () => {
    const seen = new SeenPoints("a", 200_000);
    for (let window = 0; window < 12; window++) await seen.load(window * 512);
    asked.length = 0;
    await seen.load(11 * 512);
    expect(asked).toEqual([]);
    await seen.load(0);
    expect(asked).toEqual([[0, 511]]);
  });

  it("are none where they can't be had", async () => {
    vi.spyOn(api, "points").mockRejectedValueOnce(new Error("not looked through"));
    const came = vi.fn();
    const seen = new SeenPoints("a", 40);
    seen.onArrive(came);
    expect(await seen.load(3)).toBeNull();
    expect(came).not.toHaveBeenCalled();
  });
});
