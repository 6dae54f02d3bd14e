// A server for tests of sessions: it holds takes in memory, answers when it is let, and keeps what it was asked.
import {
  Problem,
  type CastDoc,
  type Change,
  type JoinDoc,
  type Opened,
  type Piece,
  type TakeDoc,
  type Wish,
} from "../api/client";
import type { Bundle, Table } from "../api/bundle";
import type { Player, Server, Surroundings } from "./state";

type Made = { at: number; document: string; changes: Change[] };
export const FRAMES = 8;

const take = (id: string): TakeDoc => ({
  id,
  production: "p",
  version: 1,
  kind: "take",
  body: {
    schema: 3,
    archived: false,
    slate: id,
    performer: "Mara Quill",
    notes: "",
    circled: false,
    notedStart: "",
    notedRate: "",
    soundOffset: 0,
    character: null,
    tacks: {},
    hand: {},
    dots: {},
    dismissed: {},
    letGo: {},
    clipSpan: null,
    sources: {
      curves: `curves of ${id}`,
      sound: `sound of ${id}`,
      body: null,
      footage: null,
      markers: null,
      hands: null,
    },
    tidy: { steps: { even: { step: "even out time", on: true, rank: 1 } } },
  },
});
const source = (id: string, kind: string) => ({ id, kind, name: id, media: "", size: 1, info: {} });

/** Waits until it is let go. */
export class Gate {
  private readonly waiting: (() => void)[] = [];
  open = true;
  pass = () => (this.open ? Promise.resolve() : new Promise<void>((go) => this.waiting.push(go)));
  let() {
    this.open = true;
    this.waiting.splice(0).forEach((go) => go());
  }
}

const NO_SHOT = () => Promise.reject(new Error("no shot here"));

export class FakeServer implements Server {
  openShot: Server["openShot"] = NO_SHOT;
  evaluateRole: Server["evaluateRole"] = NO_SHOT;
  cutShot: Server["cutShot"] = NO_SHOT;
  newLayer: Server["newLayer"] = NO_SHOT;
  editLayerKeys: Server["editLayerKeys"] = NO_SHOT;
  roleSnags: Server["roleSnags"] = NO_SHOT;
  mendRole: Server["mendRole"] = NO_SHOT;
  rigOfRole: Server["rigOfRole"] = NO_SHOT;
  snags: Server["snags"] = async () => ({ snags: [], more: 0, dismissed: [], kinds: [], silent: false });
  bodySnags: Server["bodySnags"] = this.snags;
  readonly bodyMends: { take: string; version: number; keys: string[] }[] = [];
  mendBody: Server["mendBody"] = async (id, version, keys) => {
    this.bodyMends.push({ take: id, version, keys });
    return { ...this.opened(id).join, version: version + 1 };
  };
  mend: Server["mend"] = (id, version, keys) =>
    this.edit(id, version, `mend ${keys.join()}`, [{ path: "mended", value: keys }]);
  shotSound: Server["shotSound"] = NO_SHOT;

  readonly takes = new Map<string, TakeDoc>();
  readonly edits: Made[] = [];
  readonly asked: { take: string; request: Wish & { pieces: Piece[] } }[] = [];
  readonly evaluating = new Gate();
  readonly editing = new Gate();
  readonly sounding = new Gate();
  /** What the next edit is refused with. */
  refuse: Problem | null = null;
  failSound = false;

  private opened(id: string): Opened {
    if (!this.takes.has(id)) this.takes.set(id, take(id));
    const document = this.takes.get(id)!;
    const { curves, sound } = document.body.sources;
    return {
      take: document,
      character: null,
      cast: { id: `cast of ${id}`, production: "p", version: 1, kind: "cast", body: {} as CastDoc["body"] },
      join: { id: `join of ${id}`, production: "p", version: 1, kind: "join", body: {} as JoinDoc["body"] },
      sources: {
        ...(curves ? { curves: source(curves, "curves") } : {}),
        ...(sound ? { sound: source(sound, "sound") } : {}),
      },
    };
  }

  openTake = async (id: string) => this.opened(id);

  /** A take's curves are all its version; what is wished for is added to them from the wish's own value on. */
  evaluate = async (id: string, request: Wish & { pieces: Piece[] }, signal?: AbortSignal): Promise<Bundle> => {
    this.asked.push({ take: id, request });
    await this.evaluating.pass();
    if (signal?.aborted) throw new DOMException("", "AbortError");
    const value = Number((request.take?.[0]?.value as number | undefined) ?? this.takes.get(id)!.version);
    const arrays: Record<string, Table> = {};
    const pieces = request.pieces
      .filter((p) => p.part === "raw" || p.part === "tidied")
      .map(({ part, have, first = 0, last = FRAMES - 1 }) => {
        const tag = part === "raw" ? `${id} raw` : `${id} tidied ${value}`;
        const count = last! - first! + 1;
        const said = { part, tag, columns: ["jawOpen"], size: 1, first, count };
        const fill = part === "raw" ? 0 : value;
        if (have && have === tag) {
          arrays[part] = { data: new Float32Array(0), shape: [0, 1] };
          arrays[`${part} runs`] = { data: new Float32Array(0), shape: [0, 3] };
          return { ...said, of: have };
        }
        arrays[part] = { data: new Float32Array(count).fill(fill), shape: [count, 1] };
        if (!have) return { ...said, of: "" };
        arrays[`${part} runs`] = { data: Float32Array.from([0, first!, count]), shape: [1, 3] };
        return { ...said, of: have };
      });
    return {
      head: { frames: FRAMES, rate: "60", timecode: "", timecodeRate: "", channels: ["jawOpen"], pieces },
      arrays,
    };
  };

  edit = async (document: string, version: number, label: string, changes: Change[]) => {
    await this.editing.pass();
    if (this.refuse) {
      const problem = this.refuse;
      this.refuse = null;
      throw problem;
    }
    const held = this.takes.get(document)!;
    if (version !== held.version) throw new Problem(409, `${label} is on an old version`);
    const next = {
      ...held,
      version: held.version + 1,
      body: { ...held.body, ...Object.fromEntries(changes.map((c) => [c.path, c.value])) },
    };
    this.takes.set(document, next);
    this.edits.push({ at: next.version, document, changes });
    return next;
  };

  /** An edit of keys that puts its label among what was done by hand. */
  editKeys: Server["editKeys"] = async (id, version, label) => ({
    document: await this.edit(id, version, label, [{ path: "hand", value: { [label]: { mode: "keys", keys: {} } } }]),
    report: { jawOpen: { mode: "keys", keys: 1, worst: 0, mean: 0 } },
  });

  private travelled = async (documents: string[]) => ({ document: this.takes.get(documents[0]!)!, label: "something" });
  undo = this.travelled;
  redo = this.travelled;
  solves = async () => [];
  alignedTake = async () => ({
    head: { numbers: {} },
    arrays: { other: { data: new Float32Array(FRAMES), shape: [FRAMES, 1] } },
  });
  media = async (id: string) => {
    await this.sounding.pass();
    if (this.failSound) throw new Problem(0, "the server does not answer");
    return new TextEncoder().encode(id).buffer as ArrayBuffer;
  };
}

/** What plays: keeps what it was given last. */
export class FakePlayer implements Player {
  sound: string | null = null;
  seconds = 0;
  offset = 0;
  frame = 0;
  load = (seconds: number) => void (this.seconds = seconds);
  setSound = async (raw: ArrayBuffer | null) => void (this.sound = raw && new TextDecoder().decode(raw));
  setSoundOffset = (seconds: number) => void (this.offset = seconds);
  seekFrame = (frame: number) => void (this.frame = frame);
}

export function surroundings(server = new FakeServer(), player = new FakePlayer()) {
  const said: string[] = [];
  const around: Surroundings & { server: FakeServer; player: FakePlayer; said: string[] } = {
    server,
    player,
    said,
    notify: (about) => void said.push(about.message),
    historyChanged: () => undefined,
  };
  return around;
}
