import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { api, Problem } from "./client";

const asked = vi.fn<(path: string, given: RequestInit) => Promise<Response>>();
const answer = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status });

beforeEach(() => {
  asked.mockReset().mockResolvedValue(answer({}));
  vi.stubGlobal("fetch", asked);
});
afterEach(() => vi.unstubAllGlobals());

const given = () => asked.mock.calls[0]!;

describe("what is sent", () => {
  it("is said to come from the page wherever it changes something", async () => {
    await api.newTake("p", "4A / 1", "Mara Quill", []);
    const [path, { method, headers, body }] = given();
    expect([path, method]).toEqual(["/api/productions/p/takes", "POST"]);
    expect(headers).toMatchObject({ "X-Dynaface": "1", "Content-Type": "application/json" });
    expect(JSON.parse(body as string)).toEqual({ slate: "4A / 1", performer: "Mara Quill", files: [] });
  });
  it("has no such header and no body where it only reads", async () => {
    await api.takes("p");
    expect(given()[1]).toMatchObject({ method: "GET", headers: {}, body: undefined });
  });
  it("is a file's bytes as they are", async () => {
    asked.mockResolvedValue(answer({ media: "m", size: 3 }));
    const bytes = new Blob(["abc"]);
    expect(await api.upload("p", bytes)).toEqual({ media: "m", size: 3 });
    expect(given()[1].body).toBe(bytes);
    expect(given()[1].headers).not.toHaveProperty("Content-Type");
  });
  it("can be called off", async () => {
    const stop = new AbortController();
    asked.mockImplementation(() => {
      stop.abort();
      return Promise.reject(new DOMException("stopped", "AbortError"));
    });
    await expect(api.openTake("t", stop.signal)).rejects.toMatchObject({ name: "AbortError" });
    expect(given()[1].signal).toBe(stop.signal);
  });
});

describe("what went wrong", () => {
  it("comes in the server's words, with where and what to do", async () => {
    asked.mockResolvedValue(
      answer({ message: "no column is a shape", where: "line 1", hint: "Name one jawOpen" }, 422),
    );
    const problem = await api.session().catch((error: unknown) => error);
    expect(problem).toBeInstanceOf(Problem);
    expect(problem).toMatchObject({ status: 422, message: "no column is a shape", detail: "line 1. Name one jawOpen" });
  });
  it("is said in our words where the server answers something else", async () => {
    asked.mockResolvedValue(new Response("<html>", { status: 502 }));
    const problem = (await api.session().catch((error: unknown) => error)) as Problem;
    expect(problem.status).toBe(502);
    expect(problem.message).not.toBe("");
  });
  it("has no status where nobody answers", async () => {
    asked.mockRejectedValue(new TypeError("failed to fetch"));
    await expect(api.signIn("Mara", "lamps")).rejects.toMatchObject({ status: 0 });
  });
});
