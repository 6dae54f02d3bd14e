import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useConnection, whenBack } from "./connection";
import { api, Problem } from "./client";

type Answer = { status: number; body?: unknown } | "nothing";
/** Answers in their order, by what is asked for; the last one stays. */
function server(answers: Record<string, Answer[]>) {
  const asked: string[] = [];
  const fetched = vi.fn((address: string, options?: RequestInit) => {
    options?.signal?.throwIfAborted();
    const name = `${options?.method ?? "GET"} ${address}`;
    asked.push(name);
    const list = answers[name] ?? ["nothing"];
    const answer = list.length > 1 ? list.shift()! : list[0]!;
    if (answer === "nothing") return Promise.reject(new TypeError("no connection"));
    return Promise.resolve(new Response(JSON.stringify(answer.body ?? {}), { status: answer.status }));
  });
  vi.stubGlobal("fetch", fetched);
  return asked;
}

const HEALTH = "GET /api/health";
const seconds = (n: number) => vi.advanceTimersByTimeAsync(n * 1000);

beforeEach(() => void vi.useFakeTimers());
afterEach(async () => {
  server({ [HEALTH]: [{ status: 200 }] });
  await seconds(5);
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("a server that does not answer", () => {
  it("is asked again until it is back, and the request is answered by itself", async () => {
    server({
      "GET /api/productions": ["nothing", { status: 200, body: [{ id: "p" }] }],
      [HEALTH]: ["nothing", { status: 503 }, { status: 200 }],
    });
    const answer = api.productions();
    await seconds(2.5);
    expect(useConnection.getState().lost).toBe(true);
    await seconds(1);
    expect(await answer).toEqual([{ id: "p" }]);
    expect(useConnection.getState().lost).toBe(false);
  });

  it("is asked once for all that wait", async () => {
    const asked = server({
      "GET /api/productions": ["nothing", "nothing", { status: 200 }],
      [HEALTH]: [{ status: 200 }],
    });
    const both = Promise.all([api.productions(), api.productions()]);
    await seconds(1.5);
    await both;
    expect(asked.filter((a) => a === HEALTH)).toHaveLength(1);
  });

  it("lets go of who does not wait any more", async () => {
    server({ [HEALTH]: ["nothing", { status: 200 }] });
    const gone = new AbortController();
    const waits = expect(whenBack(gone.signal)).rejects.toThrow();
    gone.abort();
    await seconds(3);
    await waits;
  });
});

describe("a database that is away", () => {
  it("is waited for by edits too: nothing of them was kept", async () => {
    const edit = "POST /api/documents/d/edits";
    const asked = server({
      [edit]: [
        { status: 503, body: { message: "the database is not reached" } },
        { status: 200, body: { id: "d" } },
      ],
      [HEALTH]: [{ status: 503 }, { status: 200 }],
    });
    const answer = api.edit("d", 1, "notes", []);
    await seconds(3);
    expect(await answer).toEqual({ id: "d" });
    expect(asked.filter((a) => a === edit)).toHaveLength(2);
  });
});

describe("what may have been made already", () => {
  it("is not asked for twice: the person is told", async () => {
    server({ "POST /api/productions": ["nothing"], [HEALTH]: [{ status: 200 }] });
    const said = expect(api.beginProduction("The Salt Lantern")).rejects.toBeInstanceOf(Problem);
    await seconds(2);
    await said;
  });
});
