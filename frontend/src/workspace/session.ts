// A session: one take that is open, with its documents, its curves, its queue of edits and its sound. An answer of the server
// belongs to the session that asked, whatever is open by then; edits that were queued land even after it was closed.
import type { AnyDoc, Change, KeyEdit, KeyReport, Opened, Piece, SnagList, TakeDoc, Wish } from "../api/client";
import type { Bundle } from "../api/bundle";
import type { KeyHolder } from "../keys/keyHolder";
import { handOf, type Hand } from "../keys/keys";
import type { Dismissal, SnagHolder } from "../snags/snagHolder";
import { alignedTo } from "./difference";
import { bodySnagsOf } from "./bodySnags";
import { OpenSession } from "./openSession";
import type { Companion, SessionState } from "./state";
import { NOTHING_SHOWN, received, shownOf, type Parts, type Shown } from "./tables";
import { watchedJoints } from "./watched";

export type DocumentKind = "take" | "cast" | "join";

const CURVES: Piece["part"][] = ["raw", "tidied"];
const ON_CHARACTER: Piece["part"][] = ["weights", "motion", "root", "shifts", "joints"];
const ALL = [...CURVES, ...ON_CHARACTER];
const SEEN_FIRST = 3000; // frames; of a longer take a drag shows what is in the deck before the rest
/** Fields of a take that no curve depends on. */
const WORDS = ["notes", "circled", "archived", "slate", "tacks", "dismissed", "clipSpan"];

export class TakeSession extends OpenSession<Wish> implements KeyHolder, SnagHolder {
  private parts: Parts = {};
  private soundOf: string | null = null;

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

  /** What is wrong with the body of the take, which its join mends. */
  readonly bodySnags: SnagHolder = bodySnagsOf(this);

  findBodySnags(): Promise<SnagList> {
    return this.around.server.bodySnags(this.id);
  }

  mendBody(keys: string[]): Promise<void> {
    return this.inTurn(async () => {
      const join = this.now.opened?.join;
      if (!join?.id) return;
      this.put(await this.around.server.mendBody(this.id, join.version, keys));
      await this.refresh();
    });
  }

  get snagsOf(): string {
    return this.id;
  }

  findSnags(): Promise<SnagList> {
    return this.around.server.snags(this.id);
  }

  mendSnags(keys: string[]): Promise<void> {
    return this.change((take) => this.around.server.mend(take.id, take.version, keys));
  }

  dismissSnag(key: string, label: string, value: Dismissal | null): Promise<void> {
    const path = `dismissed/${key}`;
    return this.edit("take", label, [value ? { path, value } : { path, remove: true }]);
  }

  readonly takesKeys = false;

  get hand(): Hand {
    return handOf(this.now.opened?.take.body);
  }

  readonly shownOnRig = null;

  get channels(): string[] {
    return this.now.curves?.channels ?? [];
  }

  async editKeys(label: string, edit: KeyEdit): Promise<Record<string, KeyReport> | null> {
    let report: Record<string, KeyReport> | null = null;
    await this.change(async (take) => {
      const made = await this.around.server.editKeys(take.id, take.version, label, edit);
      report = made.report;
      return made.document;
    });
    return report;
  }

  tryKeys(edit: KeyEdit) {
    void this.preview({ edit });
  }

  async reload() {
    if (this.closed || !this.now.opened) return;
    await this.guarded(async () => {
      this.state.setState({ opened: await this.around.server.openTake(this.id, this.reads.signal) });
      await Promise.all([this.refresh(), this.loadSound()]);
    });
    this.around.historyChanged();
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
  private ask(parts: Piece["part"][], wish: Wish, span?: { first: number; last: number }) {
    const ask = (pieces: Piece[]) =>
      this.around.server.evaluate(this.id, { ...wish, joints: watchedJoints(), pieces }, this.reads.signal);
    return this.gather(this.parts, parts, ask, span);
  }

  private show(parts: Parts, head: Bundle["head"], keepTime: boolean) {
    this.parts = parts;
    const shown = shownOf(parts, head, this.now);
    this.draw(shown);
    if (shown.curves) this.around.player.load(shown.curves.frames / shown.curves.rate, shown.curves.rate, keepTime);
  }

  protected async previewOne(wish: Wish) {
    const mine = this.generation;
    const began = performance.now();
    const frames = this.now.curves!.frames;
    const spans = frames > SEEN_FIRST && this.seen ? [held(this.seen, frames), undefined] : [undefined];
    for (const [index, span] of spans.entries()) {
      const made = await this.ask(ALL, wish, span);
      if (!made || mine !== this.generation) return;
      this.draw(shownOf(made.parts, made.head, this.now));
      if (!index) this.previewTimes.push(performance.now() - began);
      if (this.overtaken) return;
    }
  }

  private withoutCurves(opened: Opened) {
    this.parts = {};
    this.draw(NOTHING_SHOWN);
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
}

const held = (span: { first: number; last: number }, frames: number) => ({
  first: Math.min(Math.max(Math.floor(span.first), 0), frames - 1),
  last: Math.min(Math.max(Math.ceil(span.last), 0), frames - 1),
});
