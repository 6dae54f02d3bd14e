// A session of a shot: its documents, how each of its roles moves, and the layer that changes land in.
import type {
  AnyDoc,
  Change,
  CutAsked,
  KeyEdit,
  KeyReport,
  LayerDoc,
  Piece,
  ShotDoc,
  ShotWish,
  SnagList,
} from "../api/client";
import { pathOf } from "../api/changes";
import type { Bundle } from "../api/bundle";
import type { KeyHolder } from "../keys/keyHolder";
import { handOfLayer, useKeys, type Hand } from "../keys/keys";
import type { Dismissal, SnagHolder } from "../snags/snagHolder";
import { OpenSession } from "./openSession";
import { channelsOf, MOST_SHOWN, namedIn } from "./rig";
import { rolesOf, faceLayersOf, handsHold, layersOf, type ShotState } from "./state";
import { NOTHING_SHOWN, shownOf, type Parts, type Shown } from "./tables";

const ALL: Piece["part"][] = ["raw", "tidied", "weights", "motion", "root", "shifts", "props"];
const ON_RIG: Piece["part"][] = ["rigRaw", "rig"];
/** Fields of a shot, and of a layer, that no curve depends on. */
const WORDS = ["name", "notes", "timecode", "locked", "folder", "kept"];
type Cut = Omit<CutAsked, "version" | "role" | "placement" | "at" | "seconds"> &
  Partial<Pick<CutAsked, "role" | "placement" | "at" | "seconds">>;

export class ShotSession extends OpenSession<ShotWish> implements KeyHolder, SnagHolder {
  private readonly parts: Record<string, Parts> = {};
  private readonly shown: Record<string, Shown> = {};

  get shot(): ShotState | null {
    return this.now.shot;
  }

  async open() {
    this.around.player.load(0, 24);
    this.around.player.setSoundOffset(0);
    void this.around.player.setSound(null);
    await this.guarded(async () => {
      this.take(await this.around.server.openShot(this.id, this.reads.signal));
      await Promise.all([this.refresh(undefined, true), this.loadSound()]);
    });
  }

  get documentIds(): string[] {
    const opened = this.shot?.opened;
    return opened ? [...this.edited, ...opened.clips, ...opened.casts].map((d) => d.id) : [];
  }

  /** The documents that are changed here. */
  private get edited() {
    const opened = this.shot?.opened;
    const profiles = opened?.profiles ? [opened.profiles] : [];
    return opened ? [opened.shot, ...opened.layers, ...opened.words, ...profiles] : [];
  }

  /** Shows another role's curves; layers are its own. */
  choose(role: string) {
    const shot = this.shot;
    if (!shot || shot.role === role) return;
    const layer = faceLayersOf(shot, role)[0]?.id ?? null;
    const shown = this.shown[role] ?? NOTHING_SHOWN;
    this.state.setState((s) => ({ ...shown, shot: { ...shot, role, layer }, revision: s.revision + 1 }));
  }

  /** Changes land in this layer; with null in none. */
  openLayer(layer: string | null) {
    if (!this.shot || this.shot.layer === layer) return;
    this.state.setState({ shot: { ...this.shot, layer } });
    useKeys.setState({ chosen: {} }); // which keys are chosen is said of a layer
    void this.readyRig();
  }

  /** The channels of the rig that are shown while a touch-up layer is open. */
  get shownOnRig(): string[] | null {
    return this.layer?.body.character ? (this.shot?.rig?.shown ?? []) : null;
  }

  /** Shows these channels of the rig. */
  showOnRig(channels: string[]): Promise<void> {
    const shot = this.shot;
    if (!shot?.rig) return Promise.resolve();
    this.state.setState({ shot: { ...shot, rig: { ...shot.rig, shown: channels.slice(0, MOST_SHOWN) } } });
    return this.refresh([shot.role]);
  }

  /** Where a touch-up layer is open, reads what it can act on, and shows what it speaks of. */
  private async readyRig() {
    const { shot, layer } = this;
    const character = layer?.body.character;
    const { role = "" } = shot ?? {};
    if (!shot || !character || shot.opened.shot.body.roles[role]?.character !== character) return;
    const held = shot.rig?.role === role && shot.rig.character === character ? shot.rig : null;
    const found = held ?? (await this.guarded(() => this.around.server.rigOfRole(this.id, role)));
    if (!found || !this.shot || this.closed) return;
    const rig = { ...found, role, shown: held?.shown ?? [] };
    const shown = namedIn(layer.body, rig).slice(0, MOST_SHOWN);
    this.state.setState({ shot: { ...this.shot, rig: { ...rig, shown: shown.length ? shown : rig.shown } } });
    await this.refresh([role]);
  }

  /** Shows keys of layers held until the next, or as they are. */
  setStepped(stepped: boolean): Promise<void> {
    if (!this.shot) return Promise.resolve();
    this.state.setState({ shot: { ...this.shot, stepped } });
    return this.refresh();
  }

  get layer(): LayerDoc | null {
    return this.shot?.opened.layers.find((l) => l.id === this.shot?.layer) ?? null;
  }

  /** Makes a change to the shot or one of its layers in its turn and shows its result. */
  edit(document: string, label: string, changes: Change[]): Promise<void> {
    return this.inTurn(async () => {
      const found = this.edited.find((d) => d.id === document);
      if (!found) return;
      this.put(await this.around.server.edit(found.id, found.version, label, changes));
      await this.afterChange(found.kind, found.kind === "layer" ? found.body.role : null, changes);
    });
  }

  cut(cut: Cut): Promise<void> {
    return this.inTurn(async () => {
      const shot = this.shot?.opened.shot;
      if (!shot) return;
      const usual = { role: "", placement: "", at: "0", seconds: "0" };
      this.put(await this.around.server.cutShot(shot.id, { ...usual, ...cut, version: shot.version }));
      await Promise.all([this.refresh(), this.loadSound()]);
    });
  }

  addLayer(name: string, does: LayerDoc["body"]["does"], touchup = false): Promise<void> {
    return this.makeLayer((role) => this.around.server.newLayer(this.id, { role, name, does, regions: [], touchup }));
  }

  /** A new layer on the role that is worked on, however it is made; it is open then. */
  makeLayer(make: (role: string) => Promise<LayerDoc>): Promise<void> {
    return this.inTurn(async () => {
      const shot = this.shot;
      if (!shot) return;
      const made = await make(shot.role);
      const opened = { ...shot.opened, layers: [...shot.opened.layers, made] };
      this.state.setState({ shot: { ...shot, opened, layer: made.id } });
      await (made.body.character ? this.readyRig() : this.refresh([made.body.role]));
    });
  }

  /** A change beside the shot's own documents, such as of a clip of the reel; all is read anew after it. */
  changeBeside(make: () => Promise<unknown>): Promise<void> {
    return this.inTurn(async () => {
      await make();
      await this.reload();
    });
  }

  /** A change of a layer that the server works out itself, in its turn among the others. */
  changeLayer(layer: string, make: (layer: LayerDoc) => Promise<LayerDoc>): Promise<void> {
    return this.inTurn(async () => {
      const found = this.shot?.opened.layers.find((l) => l.id === layer);
      if (!found) return;
      this.put(await make(found));
      await this.refresh([found.body.role]);
    });
  }

  get snagsOf(): string {
    return `${this.id} ${this.shot?.role ?? ""}`;
  }

  findSnags(): Promise<SnagList> {
    return this.around.server.roleSnags(this.id, this.shot?.role ?? "");
  }

  /** Accepts mends: they land in the layer of mends, which is open then. */
  mendSnags(keys: string[]): Promise<void> {
    return this.inTurn(async () => {
      const shot = this.shot;
      if (!shot) return;
      const made = await this.around.server.mendRole(this.id, shot.role, keys);
      const others = shot.opened.layers.filter((l) => l.id !== made.id);
      this.state.setState({ shot: { ...shot, opened: { ...shot.opened, layers: [...others, made] }, layer: made.id } });
      await this.refresh([shot.role]);
    });
  }

  dismissSnag(key: string, label: string, value: Dismissal | null): Promise<void> {
    const path = pathOf("roles", this.shot?.role ?? "", "dismissed", key);
    return this.edit(this.id, label, [value ? { path, value } : { path, remove: true }]);
  }

  /** Parts of the role that is worked on as they would be with a wish; null where the shot was closed meanwhile. */
  async tried(wish: ShotWish): Promise<Shown | null> {
    const role = this.shot?.role ?? "";
    const made = await this.ask(role, wish);
    return made && shownOf(made.parts, made.head, this.shown[role] ?? NOTHING_SHOWN);
  }

  /** Draws the role that is worked on in place of what is drawn. */
  draw(shown: Shown) {
    if (this.shot) this.drawRole(this.shot.role, shown);
  }

  readonly takesKeys = true;

  /** The keys of the open layer. */
  get hand(): Hand {
    return handOfLayer(this.layer?.body);
  }

  get channels(): string[] {
    return this.layer?.body.character ? channelsOf(this.shot?.rig ?? null) : (this.now.curves?.channels ?? []);
  }

  async editKeys(label: string, edit: KeyEdit): Promise<Record<string, KeyReport> | null> {
    const layer = this.layer?.id;
    if (!layer) return this.missing();
    let report: Record<string, KeyReport> | null = null;
    await this.changeLayer(layer, async (found) => {
      const made = await this.around.server.editLayerKeys(found.id, found.version, label, edit);
      report = made.report;
      return made.document;
    });
    return report;
  }

  tryKeys(edit: KeyEdit) {
    if (this.layer) void this.preview({ edit: { layer: this.layer.id, edit } });
  }

  private missing(): null {
    this.around.notify({ kind: "info", message: "no layer is open: add one at Layers" });
    return null;
  }

  /** A change of the shot that the server works out itself, in its turn among the others. */
  changeShot(make: (shot: ShotDoc) => Promise<ShotDoc>): Promise<void> {
    return this.inTurn(async () => {
      const shot = this.shot?.opened.shot;
      if (!shot) return;
      this.put(await make(shot));
      await this.refresh();
    });
  }

  async reload() {
    if (this.closed || !this.shot) return;
    await this.guarded(async () => {
      this.take(await this.around.server.openShot(this.id, this.reads.signal));
      await Promise.all([this.refresh(), this.loadSound()]);
    });
    this.around.historyChanged();
  }

  /** Evaluates what is stored: all roles, or some. */
  async refresh(roles?: string[], first = false) {
    const shot = this.shot;
    if (this.closed || !shot) return;
    const wanted = roles && !handsHold(shot) ? roles : rolesOf(shot);
    await this.guarded(async () => {
      await Promise.all(wanted.map((role) => this.evaluate(role, !first)));
    });
  }

  protected async previewOne(wish: ShotWish) {
    const mine = this.generation;
    const began = performance.now();
    const role = this.shot!.role;
    const made = await this.ask(role, wish);
    if (!made || mine !== this.generation || this.shot?.role !== role) return;
    this.drawRole(role, shownOf(made.parts, made.head, this.shown[role] ?? NOTHING_SHOWN));
    this.previewTimes.push(performance.now() - began);
  }

  private async evaluate(role: string, keepTime: boolean) {
    const made = await this.ask(role, {});
    if (!made || !this.shot) return;
    this.parts[role] = made.parts;
    this.shown[role] = shownOf(made.parts, made.head, this.shown[role] ?? NOTHING_SHOWN);
    const takes = { ...this.shot.takes, ...(made.head.takes as Record<string, string>) };
    this.state.setState({ shot: { ...this.shot, takes } });
    const { curves } = this.shown[role];
    if (curves && role === this.shot.role) this.around.player.load(curves.frames / curves.rate, curves.rate, keepTime);
    this.drawRole(role, this.shown[role]);
  }

  private ask(role: string, wish: ShotWish): Promise<{ parts: Parts; head: Bundle["head"] } | null> {
    const rig = role === this.shot?.role ? (this.shownOnRig ?? []) : [];
    const more = { ...(this.shot?.stepped && { stepped: true }), ...(rig.length && { rig }) };
    const ask = (pieces: Piece[]) =>
      this.around.server.evaluateRole(this.id, { ...wish, role, pieces, ...more }, this.reads.signal);
    return this.gather(this.parts[role] ?? {}, rig.length ? [...ALL, ...ON_RIG] : ALL, ask);
  }

  /** Draws a role as it is given; its curves too, where it is the one that is shown. */
  private drawRole(role: string, shown: Shown) {
    const shot = this.shot!;
    const bodies = { ...shot.bodies, [role]: shown.body };
    this.state.setState((s) => ({
      ...(role === shot.role ? shown : {}),
      shot: { ...shot, bodies, props: shown.props },
      revision: s.revision + 1,
    }));
  }

  /** Takes over documents; the role and the layer that were open stay so as long as they are there. */
  private take(opened: ShotState["opened"]) {
    const before = this.shot;
    const kept = {
      bodies: before?.bodies ?? {},
      props: before?.props ?? null,
      takes: before?.takes ?? {},
      stepped: before?.stepped ?? false,
      rig: null,
    };
    const next: ShotState = { opened, role: "", layer: null, ...kept };
    const roles = rolesOf(next);
    next.role = before && roles.includes(before.role) ? before.role : (roles[0] ?? "");
    const layers = layersOf(next, next.role).map((l) => l.id);
    const first = faceLayersOf(next, next.role)[0]?.id ?? null;
    next.layer = before?.layer && layers.includes(before.layer) ? before.layer : first;
    const plays = next.opened.shot.body.roles[next.role]?.character;
    next.rig = before?.rig?.role === next.role && before.rig.character === plays ? before.rig : null;
    this.state.setState({ shot: next });
  }

  private put(document: AnyDoc) {
    const shot = this.shot;
    if (!shot) return;
    const { opened } = shot;
    if (document.kind === "shot") this.state.setState({ shot: { ...shot, opened: { ...opened, shot: document } } });
    else if (document.kind === "layer")
      this.take({ ...opened, layers: opened.layers.map((l) => (l.id === document.id ? document : l)) });
    else if (document.kind === "profiles") this.take({ ...opened, profiles: document });
    else if (document.kind === "words")
      this.take({ ...opened, words: opened.words.map((w) => (w.id === document.id ? document : w)) });
  }

  private async afterChange(kind: string, role: string | null, changes: Change[]) {
    const paths = changes.map((c) => c.path.split("/"));
    if (kind === "layer") return paths.every(([top]) => WORDS.includes(top!)) ? undefined : this.refresh([role!]);
    if (kind === "words" || kind === "profiles") return this.refresh();
    // Clips and characters that were not there yet have to be read.
    if (
      paths.some(
        ([top, , field, , more]) =>
          top === "roles" && (!field || field === "character" || (field === "placements" && !more)),
      )
    )
      return this.reload();
    if (paths.every(([top, , field]) => WORDS.includes(top!) || field === "dismissed")) return;
    const touched = paths.every(([top]) => top === "roles") ? [...new Set(paths.map((p) => p[1]!))] : undefined;
    const heard = paths.some(([top, , field]) => top === "sounds" || top === "length" || field === "placements");
    await Promise.all([this.refresh(touched), heard ? this.loadSound() : undefined]);
  }

  private async loadSound() {
    const raw = await this.around.server.shotSound(this.id, this.reads.signal);
    if (!this.closed) await this.around.player.setSound(raw);
  }
}
