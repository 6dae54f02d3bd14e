// What the page asks the server for. A question that fails is reported once, until it is answered again.
import { QueryCache, QueryClient } from "@tanstack/react-query";
import { Problem } from "../api/client";
import { notify } from "./notices";

/** Questions with meta `quiet` say in their own place what went wrong; who is not signed in is asked to. */
export function makeClient(tell: (problem: Problem) => void = notify): QueryClient {
  const failing = new Set<string>();
  return new QueryClient({
    defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } },
    queryCache: new QueryCache({
      onError: (error, { queryHash, meta }) => {
        if (!(error instanceof Problem) || error.status === 401 || meta?.quiet || failing.has(queryHash)) return;
        failing.add(queryHash);
        tell(error);
      },
      onSuccess: (_, { queryHash }) => void failing.delete(queryHash),
    }),
  });
}
