import { beforeEach, describe, expect, it, vi } from "vitest";
import { Problem, type Snag, type SnagList } from "../api/client";
import { clock } from "../playback/clock";
import { notify } from "../shared/notices";
import { stopTrial, tryOut, useTrial } from "../workspace/trial";
import type { SnagHolder } from "./snagHolder";
import { select } from "../workspace/workspace";
import {
  acceptMends,
  choose,
  dismiss,
  forgetSnags,
  hasMend,
  lookedThrough,
  lookThrough,
  mendWords,
  previewMend,
  takeUpAgain,
  toNext,
  useSnags,
} from "./snags";

vi.mock("../shared/notices", () => ({ notify: vi.fn() }));
vi.mock("../workspace/workspace", () => ({ select: vi.fn() }));
vi.mock("../workspace/trial", async () => {
  const { create } = await import("zustand");
  return { useTrial: create(() => ({ name: "" })), stopTrial: vi.fn(), tryOut: vi.fn() };
});

const snag = (key: string, first: number, more: Partial<Snag> = {}): Snag =>
  ({ key, kind: "spike", first, last: first + 4, channels: ["c1"], steps: [], soundShift: 0, ...more }) as Snag;
const list = (...snags: Snag[]) => ({ snags, dismissed: [] }) as unknown as SnagList;
const snags = vi.fn<SnagHolder["findSnags"]>();
const mend = vi.fn<SnagHolder["mendSnags"]>();
const dismissed = vi.fn<SnagHolder["dismissSnag"]>();
const holder = (snagsOf: string) =>
  ({
    snagsOf,
    now: { curves: { channels: Array.from({ length: 12 }, (_, i) => `c${i}`) } },
    findSnags: snags,
    mendSnags: mend,
    dismissSnag: dismissed,
  }) as unknown as SnagHolder;
const session = holder("take");

/** An answer that comes when it is let. */
function later<T>() {
  let answer!: (value: T) => void;
  let fail!: (error: unknown) => void;
  const promise = new Promise<T>((a, f) => ([answer, fail] = [a, f]));
  return { promise, answer, fail };
}

beforeEach(() => {
  vi.clearAllMocks();
  forgetSnags();
  useTrial.setState({ name: "" } as never);
  clock.load(10, 60);
});

describe("a mend in words", () => {
  it("names its steps once each, settings by what they do, and a sound that is moved", () => {
    expect(mendWords(snag("a", 1, { steps: [{ step: "smooth" }, { step: "smooth" }, { step: "bridge over" }] }))).toBe(
      "smooth, then bridge over",
    );
    expect(mendWords(snag("a", 1, { steps: [{ put: "feet", value: true }] }))).toBe("feet that stood stand");
    expect(mendWords(snag("a", 1, { steps: [{ put: "nudge", value: 1 }] }))).toBe("nudge");
    expect(mendWords(snag("a", 1, { soundShift: -0.15 }))).toBe("move the sound by -150 ms");
    expect(mendWords(snag("a", 1))).toBe("");
  });
});

describe("looking a take through", () => {
  it("remembers what was looked through, until it is forgotten", async () => {
    snags.mockResolvedValue(list());
    expect(lookedThrough()).toBeNull();
    await lookThrough(session);
    expect(lookedThrough()).toBe(session);
    const again = holder("take");
    await lookThrough(again);
    expect(lookedThrough()).toBe(again);
    forgetSnags();
    expect(lookedThrough()).toBeNull();
  });
  it("keeps what is looked at where it is still there", async () => {
    snags.mockResolvedValue(list(snag("a", 1), snag("b", 9)));
    await lookThrough(session);
    useSnags.setState({ chosen: "b" });
    await lookThrough(session);
    expect(useSnags.getState().chosen).toBe("b");
    snags.mockResolvedValue(list(snag("a", 1)));
    await lookThrough(session);
    expect(useSnags.getState().chosen).toBeNull();
  });

  it("shows the newest answer, whichever comes last", async () => {
    const [slow, quick] = [later<SnagList>(), later<SnagList>()];
    snags.mockReturnValueOnce(slow.promise).mockReturnValueOnce(quick.promise);
    const both = [lookThrough(session), lookThrough(session)];
    quick.answer(list(snag("new", 1)));
    slow.answer(list(snag("old", 1)));
    await Promise.all(both);
    expect(useSnags.getState().list!.snags.map((s) => s.key)).toEqual(["new"]);
  });

  it("never shows those of the take before", async () => {
    snags.mockResolvedValue(list(snag("a", 1)));
    await lookThrough(session);
    const slow = later<SnagList>();
    snags.mockReturnValueOnce(slow.promise);
    const other = lookThrough(holder("other"));
    expect(useSnags.getState()).toMatchObject({ of: "other", list: null, chosen: null });
    slow.answer(list(snag("b", 1)));
    await other;
    expect(useSnags.getState().list!.snags[0]!.key).toBe("b");
  });

  it("says what went wrong, unless nobody waits for it any more", async () => {
    snags.mockRejectedValueOnce(new Problem(500, "the server failed"));
    await lookThrough(session);
    expect(notify).toHaveBeenCalledWith(expect.objectContaining({ message: "the server failed" }));
    vi.mocked(notify).mockClear();
    const slow = later<SnagList>();
    snags.mockReturnValueOnce(slow.promise);
    const gone = lookThrough(session);
    forgetSnags();
    slow.fail(new Error("closed"));
    await gone;
    expect(notify).not.toHaveBeenCalled();
    expect(useSnags.getState().list).toBeNull();
  });
});

describe("a snag that is looked at", () => {
  it("is gone to, with its channels, those that the take has and eight at most", () => {
    choose(session, snag("a", 42, { channels: ["gone", ...Array.from({ length: 12 }, (_, i) => `c${i}`)] }));
    expect(clock.frame).toBe(42);
    expect(select).toHaveBeenCalledWith(["c0", "c1", "c2", "c3", "c4", "c5", "c6", "c7"]);
  });
  it("leaves what is shown alone where the take has none of its channels", () => {
    choose(session, snag("a", 42, { channels: ["gone"] }));
    expect(select).not.toHaveBeenCalled();
    expect(useSnags.getState().chosen).toBe("a");
  });
  it("ends a trial", () => {
    choose(session, snag("a", 1));
    expect(stopTrial).not.toHaveBeenCalled();
    useTrial.setState({ name: "mend of spike" } as never);
    choose(session, null);
    expect(stopTrial).toHaveBeenCalledOnce();
    expect(useSnags.getState().chosen).toBeNull();
  });
  it("is followed by the next in time, and by none after the last", () => {
    expect(toNext(session, false)).toBe(false);
    useSnags.setState({ list: list(snag("b", 30), snag("a", 10)) });
    toNext(session, false);
    expect(clock.frame).toBe(10);
    toNext(session, false);
    expect(clock.frame).toBe(30);
    toNext(session, false);
    expect(useSnags.getState().chosen).toBe("b");
    toNext(session, true);
    expect(useSnags.getState().chosen).toBe("a");
  });
});

describe("what is done about it", () => {
  it("has a mend where there are steps or a shift of the sound", () => {
    expect(hasMend(snag("a", 1))).toBe(false);
    expect(hasMend(snag("a", 1, { steps: [{}] as never }))).toBe(true);
    expect(hasMend(snag("a", 1, { soundShift: 0.1 }))).toBe(true);
  });
  it("is tried on its place, four seconds of a long one at most", () => {
    previewMend(session, snag("a", 60, { last: 590 }));
    expect(tryOut).toHaveBeenCalledWith("mend of spike", { mends: ["a"] }, { from: 60, to: 300 }, session);
    previewMend(session, snag("a", 60, { last: 64 }));
    expect(tryOut).toHaveBeenLastCalledWith("mend of spike", { mends: ["a"] }, { from: 60, to: 64 }, session);
  });
  it("is mended, several in one change", async () => {
    await acceptMends(session, [snag("a", 1), snag("b", 2)]);
    expect(mend).toHaveBeenCalledExactlyOnceWith(["a", "b"]);
  });
  it("is dismissed with a reason, and taken up again", () => {
    void dismiss(session, snag("a", 5), "meant so");
    const value = { kind: "spike", reason: "meant so", first: 5, last: 9 };
    expect(dismissed).toHaveBeenLastCalledWith("a", "dismiss spike", value);
    void takeUpAgain(session, snag("a", 5));
    expect(dismissed).toHaveBeenLastCalledWith("a", "look at spike again", null);
  });
});
