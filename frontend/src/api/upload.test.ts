import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { api, Problem } from "./client";
import { uploadFile, uploadKey } from "./upload";

const PIECE = 8 << 20;
const SIZE = 2 * PIECE + 100;
const lost = () => new Problem(0, "no answer");

/** A server that takes a file in pieces, and loses answers where a test says so. */
class Receiver {
  received = 0;
  begun = 0;
  pieces: number[] = [];
  failures: (Problem | null)[] = [];
  /** Whether a piece whose answer was lost had arrived. */
  arrives = false;

  state() {
    return { upload: "one", received: this.received, size: SIZE, media: this.received >= SIZE ? "medium" : "" };
  }
  begin = () => {
    this.begun += 1;
    return Promise.resolve(this.state());
  };
  piece = (_: string, offset: number, part: { size: number }) => {
    const failure = this.failures.shift();
    if (failure && !(this.arrives && failure.status === 0)) return Promise.reject(failure);
    this.pieces.push(offset);
    this.received = offset + part.size;
    return failure ? Promise.reject(failure) : Promise.resolve(this.state());
  };
}

let server: Receiver;
let kept: Map<string, string>;
const file = {
  name: "ferry.mp4",
  size: SIZE,
  lastModified: 1,
  slice: (a: number, b: number) => ({ size: Math.min(b, SIZE) - a }),
};
const send = (onShare: (share: number) => void = () => {}) =>
  uploadFile("production", file as unknown as File, onShare);

beforeEach(() => {
  server = new Receiver();
  kept = new Map();
  vi.stubGlobal("localStorage", {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  });
  vi.stubGlobal("window", { setTimeout: (f: () => void) => queueMicrotask(f) });
  vi.spyOn(api, "beginUpload").mockImplementation(server.begin as never);
  vi.spyOn(api, "piece").mockImplementation(server.piece as never);
  vi.spyOn(api, "uploading").mockImplementation((() => Promise.resolve(server.state())) as never);
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

it("sends a small file at once", async () => {
  const whole = vi.spyOn(api, "upload").mockResolvedValue({ media: "small" } as never);
  expect(await uploadFile("production", { ...file, size: PIECE } as unknown as File, () => {})).toBe("small");
  expect(whole).toHaveBeenCalledOnce();
  expect(server.begun).toBe(0);
});

it("sends a large file in pieces and says how far it is", async () => {
  const shares: number[] = [];
  expect(await send((s) => shares.push(s))).toBe("medium");
  expect(server.pieces).toEqual([0, PIECE, 2 * PIECE]);
  expect(shares).toEqual([0, PIECE / SIZE, (2 * PIECE) / SIZE]);
  expect(kept.size).toBe(0);
});

it("waits a broken connection out and goes on where the server says", async () => {
  server.failures = [null, lost(), lost()];
  expect(await send()).toBe("medium");
  expect(server.pieces).toEqual([0, PIECE, 2 * PIECE]);
});

it("does not send again what arrived although its answer was lost", async () => {
  server.arrives = true;
  server.failures = [lost()];
  expect(await send()).toBe("medium");
  expect(server.pieces).toEqual([0, PIECE, 2 * PIECE]);
});

it("gives up after six tries, and a page opened later goes on with the same file", async () => {
  server.failures = [null, ...Array.from({ length: 7 }, lost)];
  await expect(send()).rejects.toMatchObject({ status: 0 });
  expect(kept.get(uploadKey("production", file))).toBe("one");
  expect(await send()).toBe("medium");
  expect(server.begun).toBe(1);
  expect(server.pieces).toEqual([0, PIECE, 2 * PIECE]);
});

it("begins anew where the server refused the file or knows it no more", async () => {
  server.failures = [new Problem(413, "too large")];
  await expect(send()).rejects.toMatchObject({ status: 413 });
  expect(kept.size).toBe(0);
  kept.set(uploadKey("production", file), "forgotten");
  vi.mocked(api.uploading).mockRejectedValueOnce(new Problem(404, "no such upload"));
  expect(await send()).toBe("medium");
  expect(server.begun).toBe(2);
});
