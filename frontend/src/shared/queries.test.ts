import { QueryObserver, type QueryClient } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { Problem } from "../api/client";
import { makeClient } from "./queries";

const ask = (client: QueryClient, answer: () => Promise<unknown>, meta = {}) =>
  new QueryObserver(client, { queryKey: ["head"], queryFn: answer, retry: false, meta, enabled: false }).refetch();
const fails = (status: number) => async () => {
  throw new Problem(status, "the solve is gone");
};

test("a question that fails is reported once, and again after it had been answered", async () => {
  const reported: string[] = [];
  const client = makeClient((p) => reported.push(p.message));
  await ask(client, fails(404));
  await ask(client, fails(404));
  expect(reported).toEqual(["the solve is gone"]);
  await ask(client, async () => 1);
  await ask(client, fails(404));
  expect(reported).toHaveLength(2);
});

test("who is not signed in, and what is said in its own place, is not reported", async () => {
  const reported: string[] = [];
  const client = makeClient((p) => reported.push(p.message));
  await ask(client, fails(401));
  await ask(client, fails(404), { quiet: true });
  expect(reported).toEqual([]);
});
