import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Kept } from "./kept";

const shown = (source: string, gone: string[]) => ({ source, dispose: () => void gone.push(source) });

describe("what was on screen a moment ago", () => {
  let gone: string[];
  beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal("window", globalThis);
    gone = [];
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("is given back to whoever shows the same, and to nobody else then", () => {
    const kept = new Kept(3, 30);
    const [a, b] = [shown("a", gone), shown("b", gone)];
    kept.leave(a);
    kept.leave(b);
    expect(kept.take("b")).toBe(b);
    expect(kept.take("b")).toBe(a);
    expect(kept.take("b")).toBeNull();
  });

  it("lends the one that was left first to whoever shows something else", () => {
    const kept = new Kept(3, 30);
    const [a, b] = [shown("a", gone), shown("b", gone)];
    kept.leave(a);
    kept.leave(b);
    expect(kept.take("c")).toBe(a);
    expect(gone).toEqual([]);
  });

  it("goes when it was not wanted for a while, but not when it was taken meanwhile", () => {
    const kept = new Kept(3, 30);
    kept.leave(shown("a", gone));
    kept.leave(shown("b", gone));
    vi.advanceTimersByTime(20_000);
    kept.take("a");
    vi.advanceTimersByTime(20_000);
    expect(gone).toEqual(["b"]);
    expect(kept.take("b")).toBeNull();
  });

  it("goes when there are too many, the oldest first", () => {
    const kept = new Kept(2, 30);
    for (const source of ["a", "b", "c"]) kept.leave(shown(source, gone));
    expect(gone).toEqual(["a"]);
    expect(kept.take("c")!.source).toBe("c");
    vi.advanceTimersByTime(60_000);
    expect(gone).toEqual(["a", "b"]);
  });
});
