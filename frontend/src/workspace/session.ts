// A session: one take that is open, with its documents, its curves, its queue of edits and its sound. An answer of the server
// belongs to the session that asked, whatever is open by then; edits that were queued land even after it was closed.
import { createStore, type StoreApi } from "zustand/vanilla";
import {
  Problem,
  type Answers,
  type AnyDoc,
  type Change,
  type Opened,
  type Piece,
  type TakeDoc,
  type Wish,
} from "../api/client";
import type { Bundle, Table } from "../api/bundle";
import { alignedTo } from "./difference";
import { received, shownOf, type Parts, type Shown } from "./tables";

export type Companion = "layout" | "dots" | "card";
export type DocumentKind = "take" | "cast" | "join";
export type SessionState = Shown & {
  opened: Opened | null;
  /** Rises with each new set of curves or weights. */
  revision: number;
  /** Another solve of the same footage or another take that the deck compares with, frame by frame of this one. */
  against: { source: string; name: string; raw: Table } | null;
  saving: number;
  /** The documents that are worked on beside the take: a marker layout, dots, a performer card. */
  companions: Partial<Record<Companion, string>>;
  /** Weights set by hand to try the rig, by target; they are not stored. */
  tried: Record<string, number>;
};
export const NOTHING_OPEN: SessionState = {
  opened: null,
  curves: null,
  body: null,
  revision: 0,
  against: null,
  saving: 0,
  companions: {},
  tried: {},
};

/** Time and sound of what is open. */
export type Player = {
  load: (seconds: number, fps: number, keep?: boolean) => void;
  setSound: (raw: ArrayBuffer | null) => Promise<void>;
  setSoundOffset: (seconds: number) => void;
  seekFrame: (frame: number) => void;
};
export type Server = Pick<
  Answers,
  "openTake" | "evaluate" | "edit" | "undo" | "redo" | "media" | "solves" | "alignedTake"
>;
/** What a session is given: who answers, what plays, who hears of problems, undone labels and a changed history. */
export type Surroundings = {
  server: Server;
  player: Player;
  notify: (about: Problem | { kind: "info"; message: string }) => void;
  historyChanged: () => void;
};

const CURVES: Piece["part"][] = ["raw", "tidied"];
const ON_CHARACTER: Piece["part"][] = ["weights", "motion", "root", "shifts"];
const ALL = [...CURVES, ...ON_CHARACTER];
const SEEN_FIRST = 3000; // frames; of a longer take a drag shows what is in the deck before the rest
/** Fields of a take that no curve depends on. */
const WORDS = ["notes", "circled", "archived", "slate", "tacks", "dismissed"];

export class TakeSession {
  readonly state: StoreApi<SessionState>;
  /** Milliseconds from a slider's move to new curves and weights in place; read by the benchmark. */
  readonly previewTimes: number[] = [];
  /** Frames that the deck shows. */
  seen: { first: number; last: number } | null = null;
  closed = false;
  private parts: Parts = {};
  private queue: Promise<void> = Promise.resolve();
  private readonly reads = new AbortController();
  private soundOf: string | null = null;
  private wish: Wish | null = null;
  private previewing = false;
  /** Rises with each edit: what was previewed before it is of no use. */
  private generation = 0;

  constructor(
    readonly id: string,
    private readonly around: Surroundings,
  ) {
    this.state = createStore<SessionState>(() => NOTHING_OPEN);
  }

  get now(): SessionState {
    return this.state.getState();
  }

  /** Reads everything; at `frame` of the take where one is wished for. */
  async open(frame?: number) {
    this.around.player.load(0, 60);
    void this.around.player.setSound(null);
    await this.guarded(async () => {
      const opened = await this.around.server.openTake(this.id, this.reads.signal);
      this.state.setState({ opened });
      await Promise.all([this.refresh(true), this.loadSound()]);
      if (frame !== undefined && !this.closed) this.around.player.seekFrame(frame);
    });
  }

  /** Nothing is read any more, and nothing plays; edits that wait are still made. */
  close() {
    this.closed = true;
    this.wish = null;
    this.reads.abort();
  }

  /** Evaluates what is stored. */
  async refresh(first = false) {
    const opened = this.now.opened;
    if (this.closed || !opened) return;
    if (!opened.sources.curves) return this.withoutCurves(opened);
    await this.guarded(async () => {
      const made = await this.ask(ALL, {});
      if (made) this.show(made.parts, made.head, !first);
    });
  }

  /** The documents on which undo works while the take is open. */
  get documentIds(): string[] {
    const { opened, companions } = this.now;
    if (!opened) return [];
    const { take, cast, join, character } = opened;
    return [take.id, cast?.id, join.id, character?.id, ...Object.values(companions)].filter((id): id is string => !!id);
  }

  /** Makes a change in its turn and shows its result; on a conflict what is stored is shown again. */
  edit(kind: DocumentKind, label: string, changes: Change[]): Promise<void> {
    return this.inTurn(async () => {
      const document = this.now.opened?.[kind];
      if (!document?.id) return;
      this.put(await this.around.server.edit(document.id, document.version, label, changes));
      await this.afterChange(changes.map((c) => c.path));
    });
  }

  /** A change of the take that the server works out itself, in its turn among the others. */
  change(make: (take: TakeDoc) => Promise<TakeDoc>): Promise<void> {
    return this.inTurn(async () => {
      const take = this.now.opened?.take;
      if (!take) return;
      this.put(await make(take));
      this.play();
      await this.refresh();
    });
  }

  travel(way: "undo" | "redo"): Promise<void> {
    return this.inTurn(async () => {
      const { label } = await this.around.server[way](this.documentIds);
      this.around.notify({ kind: "info", message: `${way === "undo" ? "Undone" : "Redone"}: ${label}` });
      await this.reload();
    }, false);
  }

  async reload() {
    if (this.closed || !this.now.opened) return;
    await this.guarded(async () => {
      this.state.setState({ opened: await this.around.server.openTake(this.id, this.reads.signal) });
      await Promise.all([this.refresh(), this.loadSound()]);
    });
    this.around.historyChanged();
  }

  /** Shows what is only wished for. The newest wish wins; while one is under way only the latest is kept. */
  async preview(wish: Wish) {
    this.wish = wish;
    if (this.previewing) return;
    this.previewing = true;
    while (this.wish && !this.closed && this.now.curves) {
      const asked: Wish = this.wish;
      this.wish = null;
      await this.guarded(() => this.previewOne(asked));
    }
    this.wish = null;
    this.previewing = false;
  }

  /** Parts as they would be with a wish, on top of what is stored; null where the session was closed meanwhile. */
  async tried(wish: Wish): Promise<Shown | null> {
    const made = await this.ask(ALL, wish);
    return made && shownOf(made.parts, made.head, this.now);
  }

  /** Draws curves and body in place of those that are drawn. */
  draw(shown: Shown) {
    this.state.setState((s) => ({ ...shown, revision: s.revision + 1 }));
  }

  /** Undo works on this document too while the take is open. */
  setCompanion(kind: Companion, id: string | undefined) {
    if (this.now.companions[kind] === id) return;
    this.state.setState({ companions: { ...this.now.companions, [kind]: id } });
    this.around.historyChanged();
  }

  tryTarget(target: string, weight: number | null) {
    const tried = { ...this.now.tried };
    if (weight === null) delete tried[target];
    else tried[target] = weight;
    this.state.setState({ tried });
  }

  stopTrying() {
    this.state.setState({ tried: {} });
  }

  /** Lays another solve under the chosen one, or takes it away. */
  async compareWith(other: { source: string; name: string } | null) {
    const { opened, curves } = this.now;
    if (!other || !opened || !curves) return this.lay(null);
    await this.guarded(async () => {
      const request = { pieces: [{ part: "raw" as const }], curves: other.source };
      const [made, solves] = await Promise.all([
        this.around.server.evaluate(this.id, request, this.reads.signal),
        this.around.server.solves(this.id),
      ]);
      const firstOf = (source?: string) => solves.find((s) => s.source === source)?.first ?? 0;
      const raw = received({}, made)!.raw!;
      this.lay({
        ...other,
        raw: alignedTo(curves, raw.table, raw.columns, firstOf(opened.sources.curves?.id) - firstOf(other.source)),
      });
    });
  }

  /** Lays another take of the same moment under this one, or takes it away: numbers by channel. */
  async compareWithTake(
    other: { id: string; slate: string } | null,
  ): Promise<Record<string, [number, number, number, number]> | null> {
    this.lay(null);
    if (!other) return null;
    return (
      (await this.guarded(async () => {
        const { head, arrays } = await this.around.server.alignedTake(this.id, other.id);
        this.lay({ source: other.id, name: other.slate, raw: arrays.other! });
        return head.numbers as Record<string, [number, number, number, number]>;
      })) ?? null
    );
  }

  private lay(against: SessionState["against"]) {
    this.state.setState((s) => ({ against, revision: s.revision + 1 }));
  }

  /** Parts as the server has them with a wish, and the head of its answer; what the session holds stays as it is. */
  private async ask(
    parts: Piece["part"][],
    wish: Wish,
    span?: { first: number; last: number },
  ): Promise<{ parts: Parts; head: Bundle["head"] } | null> {
    const base = this.parts;
    const pieces = parts.map((part): Piece => ({ part, have: base[part]?.tag ?? "", ...(base[part] ? span : {}) }));
    let made = await this.around.server.evaluate(this.id, { ...wish, pieces }, this.reads.signal);
    let next = received(base, made);
    if (!next) {
      made = await this.around.server.evaluate(
        this.id,
        { ...wish, pieces: parts.map((part) => ({ part })) },
        this.reads.signal,
      );
      next = received(base, made)!;
    }
    // What the answer does not speak of (a take without a character) is not there any more.
    const sent = new Set((made.head.pieces as { part: string }[]).map((p) => p.part));
    for (const part of parts) if (!sent.has(part)) delete next[part];
    return this.closed ? null : { parts: next, head: made.head };
  }

  private show(parts: Parts, head: Bundle["head"], keepTime: boolean) {
    this.parts = parts;
    const shown = shownOf(parts, head, this.now);
    this.draw(shown);
    if (shown.curves) this.around.player.load(shown.curves.frames / shown.curves.rate, shown.curves.rate, keepTime);
  }

  private async previewOne(wish: Wish) {
    const mine = this.generation;
    const began = performance.now();
    const frames = this.now.curves!.frames;
    const spans = frames > SEEN_FIRST && this.seen ? [held(this.seen, frames), undefined] : [undefined];
    for (const [index, span] of spans.entries()) {
      const made = await this.ask(ALL, wish, span);
      if (!made || mine !== this.generation) return;
      this.draw(shownOf(made.parts, made.head, this.now));
      if (!index) this.previewTimes.push(performance.now() - began);
      if (this.wish) return;
    }
  }

  private withoutCurves(opened: Opened) {
    this.parts = {};
    this.draw({ curves: null, body: null });
    const info = opened.sources.footage?.info ?? opened.sources.markers?.info;
    const [over, under = 1] = String(info?.rate ?? "60")
      .split("/")
      .map(Number);
    this.around.player.load(Number(info?.seconds ?? opened.sources.sound?.info.seconds ?? 0), over! / under);
  }

  private async loadSound() {
    this.play();
    const sound = this.now.opened?.sources.sound?.id ?? "";
    if (sound === this.soundOf || this.closed) return;
    const raw = sound ? await this.around.server.media(sound, this.reads.signal) : null;
    if (this.closed || sound !== (this.now.opened?.sources.sound?.id ?? "")) return;
    await this.around.player.setSound(raw);
    this.soundOf = sound;
  }

  private play() {
    if (!this.closed) this.around.player.setSoundOffset(this.now.opened?.take.body.soundOffset ?? 0);
  }

  private put(document: AnyDoc) {
    const opened = this.now.opened;
    if (!opened) return;
    const next = { ...opened };
    if (document.kind === "take" && document.id === opened.take.id) next.take = document;
    else if (document.kind === "cast" && document.id === opened.cast?.id) next.cast = document;
    else if (document.kind === "join" && document.id === opened.join.id) next.join = document;
    this.state.setState({ opened: next });
  }

  private async afterChange(paths: string[]) {
    const top = paths.map((p) => p.split("/")[0]!);
    if (top.some((p) => p === "character" || p === "sources" || p === "performer")) return this.reload();
    if (top.every((p) => WORDS.includes(p))) return;
    if (top.every((p) => p === "soundOffset")) {
      this.play();
      this.state.setState((s) => ({ revision: s.revision + 1 }));
      return;
    }
    await this.refresh();
  }

  /** One change after the other: each builds on the version that the one before made. After an error what is stored is shown again. */
  private inTurn(work: () => Promise<void>, saves = true): Promise<void> {
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

  private async guarded<T>(work: () => Promise<T>): Promise<T | undefined> {
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

const held = (span: { first: number; last: number }, frames: number) => ({
  first: Math.min(Math.max(Math.floor(span.first), 0), frames - 1),
  last: Math.min(Math.max(Math.ceil(span.last), 0), frames - 1),
});
