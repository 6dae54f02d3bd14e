import { QueryObserver, type QueryClient } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { Problem } from "../api/client";
import { makeClient } from "./queries";

const ask = (client: QueryClient, answer: () => Promise<unknown>, meta = {}) =>
  new QueryObserver(client, { queryKey: ["head"], queryFn: answer, retry: false, meta, enabled: false }).refetch();
const fails = (status: number) => async () => {
  throw new Problem(status, "the solve is gone");
};

test("a question that fails is told once, and again after it had been answered", async () => {
  const told: string[] = [];
  const client = makeClient((p) => told.push(p.message));
  await ask(client, fails(404));
  await ask(client, fails(404));
  expect(told).toEqual(["the solve is gone"]);
  await ask(client, async () => 1);
  await ask(client, fails(404));
  expect(told).toHaveLength(2);
});

test("who is not signed in, and what is said in its own place, is not told", async () => {
  const told: string[] = [];
  const client = makeClient((p) => told.push(p.message));
  await ask(client, fails(401));
  await ask(client, fails(404), { told: true });
  expect(told).toEqual([]);
});
