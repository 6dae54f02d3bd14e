// Whether the server answers. A request that it could not take waits here and is made again by itself.
import { create } from "zustand";

/** lost: nothing answers, or the database is away; it is tried again until it is back. */
export const useConnection = create<{ lost: boolean }>(() => ({ lost: false }));

const EVERY = 1000; // milliseconds between tries
let waiting: Promise<void> | null = null;

const pause = (milliseconds: number) => new Promise<void>((done) => setTimeout(done, milliseconds));

async function healthy(): Promise<boolean> {
  try {
    return (await fetch("/api/health", { cache: "no-store" })).ok;
  } catch {
    return false;
  }
}

async function untilHealthy() {
  useConnection.setState({ lost: true });
  try {
    do await pause(EVERY);
    while (!(await healthy()));
  } finally {
    useConnection.setState({ lost: false });
    waiting = null;
  }
}

/** Resolves once the server and its database answer again; rejects where the asker has gone meanwhile. */
export async function whenBack(signal?: AbortSignal): Promise<void> {
  waiting ??= untilHealthy();
  await waiting;
  signal?.throwIfAborted();
}
