// What every session is, be it of a take or of a shot: its state, its queue of edits, its reads that can be ended, and what is
// only wished for while something is dragged.
import { createStore, type StoreApi } from "zustand/vanilla";
import { Problem, type Piece } from "../api/client";
import type { Bundle } from "../api/bundle";
import { received, type Parts } from "./tables";
import { NOTHING_OPEN, type SessionState, type Surroundings } from "./state";

type Ask = (pieces: Piece[]) => Promise<Bundle>;

export abstract class OpenSession<W> {
  readonly state: StoreApi<SessionState>;
  /** Milliseconds from a slider's move to new curves and weights in place; read by the benchmark. */
  readonly previewTimes: number[] = [];
  /** Frames that the deck shows. */
  seen: { first: number; last: number } | null = null;
  closed = false;
  protected readonly reads = new AbortController();
  private queue: Promise<void> = Promise.resolve();
  private wish: W | null = null;
  private previewing = false;
  /** Rises with each edit: what was previewed before it is of no use. */
  protected generation = 0;

  constructor(
    readonly id: string,
    protected readonly around: Surroundings,
  ) {
    this.state = createStore<SessionState>(() => NOTHING_OPEN);
  }

  get now(): SessionState {
    return this.state.getState();
  }

  /** The documents on which undo works while this is open. */
  abstract get documentIds(): string[];
  /** Reads and shows again what is stored. */
  abstract reload(): Promise<void>;
  protected abstract previewOne(wish: W): Promise<void>;

  /** Nothing is read any more, and nothing plays; edits that wait are still made. */
  close() {
    this.closed = true;
    this.wish = null;
    this.reads.abort();
  }

  travel(way: "undo" | "redo"): Promise<void> {
    return this.inTurn(async () => {
      const { label } = await this.around.server[way](this.documentIds);
      this.around.notify({ kind: "info", message: `${way === "undo" ? "Undone" : "Redone"}: ${label}` });
      await this.reload();
    }, false);
  }

  /** Shows what is only wished for. The newest wish wins; while one is under way only the latest is kept. */
  async preview(wish: W) {
    this.wish = wish;
    if (this.previewing) return;
    this.previewing = true;
    while (this.wish && !this.closed && this.now.curves) {
      const asked: W = this.wish;
      this.wish = null;
      await this.guarded(() => this.previewOne(asked));
    }
    this.wish = null;
    this.previewing = false;
  }

  /** Whether something newer is wished for. */
  protected get overtaken(): boolean {
    return this.wish !== null;
  }

  /** Parts as they come, on top of those that are held, and the head of the answer; null where the session was closed meanwhile. */
  protected async gather(
    base: Parts,
    parts: Piece["part"][],
    ask: Ask,
    span?: { first: number; last: number },
  ): Promise<{ parts: Parts; head: Bundle["head"] } | null> {
    let made = await ask(parts.map((part) => ({ part, have: base[part]?.tag ?? "", ...(base[part] ? span : {}) })));
    let next = received(base, made);
    if (!next) {
      made = await ask(parts.map((part) => ({ part })));
      next = received(base, made)!;
    }
    // What the answer does not speak of (a take without a character) is not there any more.
    const sent = new Set((made.head.pieces as { part: string }[]).map((p) => p.part));
    for (const part of parts) if (!sent.has(part)) delete next[part];
    return this.closed ? null : { parts: next, head: made.head };
  }

  /** One change after the other: each builds on the version that the one before made. After an error what is stored is shown again. */
  protected inTurn(work: () => Promise<void>, saves = true): Promise<void> {
    const turn = async () => {
      this.generation++;
      this.wish = null;
      if (saves) this.state.setState((s) => ({ saving: s.saving + 1 }));
      try {
        await work();
      } catch (error) {
        this.tell(error);
        if (saves) await this.reload();
      } finally {
        if (saves) this.state.setState((s) => ({ saving: s.saving - 1 }));
        this.around.historyChanged();
      }
    };
    this.queue = this.queue.then(turn);
    return this.queue;
  }

  protected async guarded<T>(work: () => Promise<T>): Promise<T | undefined> {
    try {
      return await work();
    } catch (error) {
      this.tell(error);
      return undefined;
    }
  }

  private tell(error: unknown) {
    if (this.closed && error instanceof DOMException && error.name === "AbortError") return;
    this.around.notify(error instanceof Problem ? error : new Problem(0, String(error)));
  }
}
