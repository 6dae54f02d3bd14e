// A shot for tests of sessions and of the Layer desk: two roles, two clips, a layer; and a server that holds it.
import {
  Problem,
  type AnyDoc,
  type Change,
  type CutAsked,
  type LayerDoc,
  type OpenedShot,
  type Placement,
} from "../api/client";
import type { Bundle } from "../api/bundle";
import { FRAMES, FakeServer } from "./fakeServer";
import type { RigRow } from "./rig";
import type { Server, ShotState } from "./state";

export const placement = (more: Partial<Placement> = {}): Placement => ({
  clip: "clip",
  shows: "face",
  follows: false,
  start: "0",
  first: "0",
  last: "2",
  speed: "1",
  repeats: "1",
  seam: "0",
  fadeIn: "0",
  fadeOut: "0",
  lane: 0,
  mute: false,
  weight: { value: 1, keys: {} },
  sound: true,
  seen: "",
  ...more,
});

export const layer = (id: string, more: Partial<LayerDoc["body"]> = {}): LayerDoc => ({
  id,
  production: "p",
  version: 1,
  kind: "layer",
  body: {
    schema: 1,
    archived: false,
    shot: "S",
    role: "odile",
    name: id,
    rank: 1,
    does: "add",
    regions: {},
    weight: { value: 1, keys: {} },
    mute: false,
    solo: false,
    locked: false,
    keys: {},
    spans: {},
    makers: {},
    folder: "",
    kept: {},
    character: null,
    ...more,
  },
});

/** The character of a role that is played by one, and what its rig has. */
export const RIG = "rig";
export const rigRows = (): RigRow[] => [
  { name: "mouthSmileLeft", part: "target", region: "lips", channels: ["target mouthSmileLeft"] },
  { name: "whiskers up", part: "target", region: "extra", channels: ["target whiskers up"] },
  {
    name: "head",
    part: "joint",
    region: "head",
    channels: ["turn", "slide"].flatMap((kind) => ["x", "y", "z"].map((axis) => `joint head ${kind} ${axis}`)),
  },
];

export function openedShot(layers = [layer("lip")]): OpenedShot {
  const role = (performer: string, rank: number, placements: Record<string, Placement>) => ({
    character: null,
    performer,
    rank,
    at: [0, 0, 0] as [number, number, number],
    turn: 0,
    placements,
    capture: {},
    headWeight: { value: 1, keys: {} },
    look: "head" as const,
    lean: 0,
    dismissed: {},
  });
  return {
    shot: {
      id: "S",
      production: "p",
      version: 1,
      kind: "shot",
      body: {
        schema: 1,
        archived: false,
        name: "Ferry landing",
        notes: "",
        rate: "60",
        timecode: "",
        length: "4",
        roles: {
          brindle: role("Ivo Thackett", 1, {}),
          odile: role("Mara Quill", 0, { one: placement(), two: placement({ start: "2", speed: "2" }) }),
        },
        sounds: {},
        aims: {},
        props: {},
        camera: [0, 1.5, 2.5],
      },
    },
    layers,
    clips: [
      {
        id: "clip",
        version: 1,
        name: "Odile_4A-1_01",
        take: "A",
        slate: "4A / 1",
        performer: "Mara Quill",
        first: "0",
        last: "2",
        frozen: false,
        sound: null,
        body: false,
        soundOffset: 0,
        seconds: 3,
        used: [],
      },
    ],
    characters: [],
    casts: [],
    words: [],
    profiles: null,
  };
}

export const shotState = (more: Partial<ShotState> = {}): ShotState => ({
  opened: openedShot(),
  role: "odile",
  layer: "lip",
  bodies: {},
  props: null,
  takes: {},
  stepped: false,
  rig: null,
  ...more,
});

/** Curves of a role are the version of the document that was changed last; of what is wished for, 100. */
export class FakeShots extends FakeServer {
  held = openedShot();
  newest = 1;
  readonly evaluated: string[] = [];
  /** Channels of the rig that each evaluation was asked for. */
  readonly onRig: string[][] = [];
  readonly rigs: string[] = [];
  readonly sent: { document: string; changes: Change[] }[] = [];
  readonly cuts: CutAsked[] = [];
  sounds = 0;

  override openShot: Server["openShot"] = async () => structuredClone(this.held);

  override evaluateRole: Server["evaluateRole"] = async (_, request): Promise<Bundle> => {
    this.evaluated.push(request.role);
    await this.evaluating.pass();
    this.onRig.push(request.rig ?? []);
    const value = request.layers || request.mends ? 100 : this.newest;
    const columnsOf: Record<string, string[]> = { raw: ["jawOpen"], tidied: ["jawOpen"] };
    const props = Object.keys(this.held.shot.body.props);
    if (request.rig?.length) Object.assign(columnsOf, { rigRaw: request.rig, rig: request.rig });
    const pieces = request.pieces
      .filter((p) => p.part in columnsOf)
      .map(({ part }) => ({
        part,
        tag: `${part} ${value}`,
        columns: columnsOf[part]!,
        size: 1,
        first: 0,
        count: FRAMES,
        of: "",
      }));
    const arrays = Object.fromEntries(
      pieces.map(({ part, columns }) => {
        const shape = [FRAMES, columns.length];
        return [part, { data: new Float32Array(FRAMES * columns.length).fill(value), shape }];
      }),
    );
    if (props.length) {
      pieces.push({ part: "props", tag: `props ${value}`, columns: props, size: 7, first: 0, count: FRAMES, of: "" });
      const data = new Float32Array(FRAMES * props.length * 7).fill(value);
      arrays.props = { data, shape: [FRAMES, props.length, 7] };
    }
    const head = {
      short: props.length ? { h: 0.25 } : undefined,
      frames: FRAMES,
      rate: "60",
      timecode: "",
      timecodeRate: "",
      channels: ["jawOpen"],
      takes: { clip: "now" },
      pieces,
    };
    return { head, arrays };
  };

  private changed<D extends AnyDoc>(found: D, version: number): D {
    if (version !== found.version) throw new Problem(409, "an old version");
    this.newest = found.version + 1;
    return { ...found, version: found.version + 1 };
  }

  override edit = async (document: string, version: number, _: string, changes: Change[]): Promise<never> => {
    await this.editing.pass();
    if (this.refuse) {
      const problem = this.refuse;
      this.refuse = null;
      throw problem;
    }
    this.sent.push({ document, changes });
    if (document === this.held.shot.id) return (this.held.shot = this.changed(this.held.shot, version)) as never;
    const next = this.changed(
      this.held.layers.find((l) => l.id === document)!,
      version,
    );
    this.held.layers = this.held.layers.map((l) => (l.id === document ? next : l));
    return next as never;
  };

  readonly keyed: string[] = [];
  override editLayerKeys: Server["editLayerKeys"] = async (id, version, label) => {
    this.keyed.push(`${id} ${version} ${label}`);
    const document = (await this.edit(id, version, label, [])) as LayerDoc;
    return { document, report: { jawOpen: { mode: "offset", keys: 1, worst: 0, mean: 0 } } };
  };

  override mendRole: Server["mendRole"] = async (_, role) => {
    const before = this.held.layers.find((l) => l.id === "mends");
    const made = { ...layer("mends", { role, rank: 9 }), version: (before?.version ?? 0) + 1 };
    this.held.layers = [...this.held.layers.filter((l) => l !== before), made];
    return made;
  };

  override rigOfRole: Server["rigOfRole"] = async (_, role) => {
    this.rigs.push(role);
    return { character: RIG, low: 0, high: 1.5, rows: rigRows() };
  };

  override cutShot: Server["cutShot"] = async (_, cut) => {
    this.cuts.push(cut);
    return (this.held.shot = this.changed(this.held.shot, cut.version));
  };

  override newLayer: Server["newLayer"] = async (_, asked) => {
    const { name, role } = asked;
    const character = asked.touchup ? RIG : null;
    const made = layer(`layer ${this.held.layers.length + 1}`, { name, role, rank: 9, character });
    this.held.layers = [...this.held.layers, made];
    return made;
  };

  override shotSound: Server["shotSound"] = async () => {
    this.sounds++;
    return new TextEncoder().encode(`sound of S ${this.sounds}`).buffer as ArrayBuffer;
  };
}
