import { beforeEach, describe, expect, it, vi } from "vitest";
import { api, Problem, type Inspection } from "../../api/client";
import { uploadFile } from "../../api/upload";
import { asFile, bringIn, correct, forget, kindOf, takeAs, useImports } from "./imports";

vi.mock("../../api/upload", () => ({ uploadFile: vi.fn() }));
const inspect = vi.spyOn(api, "inspect");
const file = (name: string) => ({ name, size: 10 }) as File;
const found = (kind: string) => ({ kind }) as unknown as Inspection;
const incoming = () => useImports.getState().incoming;

beforeEach(() => {
  vi.clearAllMocks();
  useImports.setState({ incoming: [] });
  vi.mocked(uploadFile).mockImplementation((_, given, onShare) => {
    onShare(0.5);
    return Promise.resolve(`medium of ${given.name}`);
  });
  inspect.mockImplementation((_, given) => Promise.resolve(found(given.name)));
});

describe("files on their way in", () => {
  it("are sent, then looked at", async () => {
    const done = bringIn("p", [file("a.csv")]);
    expect(incoming()).toMatchObject([{ file: "a.csv", state: "sending", share: 0.5 }]);
    await done;
    expect(incoming()).toMatchObject([{ state: "ready", share: 1, media: "medium of a.csv" }]);
    expect(inspect).toHaveBeenCalledWith("p", { media: "medium of a.csv", name: "a.csv" });
  });

  it("do not stop each other where one is bad", async () => {
    inspect.mockImplementation((_, given) =>
      given.name === "bad.csv"
        ? Promise.reject(new Problem(422, "no column is a shape"))
        : Promise.resolve(found("ok")),
    );
    vi.mocked(uploadFile).mockImplementation((_, given) =>
      given.name === "lost.wav" ? Promise.reject(new Error("the line is down")) : Promise.resolve("m"),
    );
    await bringIn("p", [file("bad.csv"), file("lost.wav"), file("good.csv")]);
    expect(incoming().map((i) => [i.file, i.state, i.problem?.message])).toEqual([
      ["bad.csv", "bad", "no column is a shape"],
      ["lost.wav", "bad", "Error: the line is down"],
      ["good.csv", "ready", undefined],
    ]);
  });

  it("are told apart where they have one name", async () => {
    await Promise.all([bringIn("p", [file("a.csv")]), bringIn("p", [file("a.csv")])]);
    expect(new Set(incoming().map((i) => i.key)).size).toBe(2);
    forget([incoming()[0]!.key]);
    expect(incoming()).toHaveLength(1);
  });
});

describe("files that hold bodies", () => {
  const body = (name: string) => ({
    name,
    joints: 20,
    seconds: 2,
    rate: "60",
    timecode: "",
    fingers: 0,
    frames: 120,
    notes: [],
  });
  const bodies = vi.spyOn(api, "bodies");
  it("are characters whose skeleton moves: one of its performers can be the body of a take", async () => {
    inspect.mockResolvedValue(found("character"));
    bodies.mockResolvedValue([body("hips"), body("b_hips")]);
    await bringIn("p", [file("both.glb")]);
    const [item] = incoming();
    expect([kindOf(item!), asFile(item!).part]).toEqual(["character", undefined]);
    takeAs(item!.key, 1);
    expect([kindOf(incoming()[0]!), asFile(incoming()[0]!)]).toMatchObject(["body", { part: "body", which: 1 }]);
    takeAs(item!.key, null);
    expect(kindOf(incoming()[0]!)).toBe("character");
  });
  it("are bodies where there is nothing else in them, and the first of several", async () => {
    inspect.mockRejectedValue(new Problem(422, "there is no mesh"));
    bodies.mockResolvedValue([body("hips")]);
    await bringIn("p", [file("walk.glb")]);
    expect(incoming()[0]).toMatchObject({
      state: "ready",
      which: 0,
      inspection: { kind: "body", report: { joints: 20 } },
    });
    inspect.mockResolvedValue(found("body"));
    bodies.mockResolvedValue([body("hips"), body("b_hips")]);
    await bringIn("p", [file("two.bvh")]);
    expect(incoming()[1]).toMatchObject({ which: 0, state: "ready" });
  });
  it("say what is wrong with them where they hold none either", async () => {
    inspect.mockRejectedValue(new Problem(422, "cut off"));
    bodies.mockRejectedValue(new Problem(422, "cut off"));
    await bringIn("p", [file("walk.glb")]);
    expect(incoming()[0]).toMatchObject({ state: "bad", problem: { message: "cut off" } });
  });
});

describe("a correction of the recipe", () => {
  const looked = async () => {
    await bringIn("p", [file("a.csv")]);
    return incoming()[0]!;
  };

  it("is looked at again, columns beside those corrected before", async () => {
    await correct("p", await looked(), { columns: { 3: "jawOpen" } });
    await correct("p", incoming()[0]!, { rate: "30" });
    await correct("p", incoming()[0]!, { columns: { 4: "tongueOut" } });
    const recipe = { rate: "30", columns: { 3: "jawOpen", 4: "tongueOut" } };
    expect(inspect).toHaveBeenLastCalledWith("p", { media: "medium of a.csv", name: "a.csv", recipe });
    expect(asFile(incoming()[0]!)).toEqual({ media: "medium of a.csv", name: "a.csv", recipe });
  });

  it("that makes it unreadable says why, and the next one mends it", async () => {
    const item = await looked();
    inspect.mockRejectedValueOnce(new Problem(422, "that is no rate", "rate"));
    await correct("p", item, { rate: "fast" });
    expect(incoming()[0]).toMatchObject({ state: "bad", problem: { message: "that is no rate" } });
    await correct("p", incoming()[0]!, { rate: "60" });
    expect(incoming()[0]).toMatchObject({ state: "ready", problem: undefined });
  });

  it("is not sent with files that needed none", async () => {
    expect(asFile(await looked())).toEqual({ media: "medium of a.csv", name: "a.csv" });
  });
});
