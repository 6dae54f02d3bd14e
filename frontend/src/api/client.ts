// Talks to the server. Errors come as Problem with the server's own words.
import type { components } from "./schema";
import { readBundle, type Bundle } from "./bundle";
import { whenBack } from "./connection";

export type Schemas = components["schemas"];
export type Opened = Schemas["OpenedTake"];
export type TakeDoc = Schemas["TakeDocument"];
export type CharacterDoc = Schemas["CharacterDocument"];
export type CardDoc = Schemas["CardDocument"];
export type CastDoc = Schemas["CastDocument"];
export type JoinDoc = Schemas["JoinDocument"];
export type StackDoc = Schemas["StackDocument"];
export type LayoutDoc = Schemas["LayoutDocument"];
export type DotsDoc = Schemas["DotsDocument"];
export type ShotDoc = Schemas["ShotDocument"];
export type LayerDoc = Schemas["LayerDocument"];
export type OpenedShot = Schemas["OpenedShotOut"];
export type ShotRow = Schemas["ShotRow"];
export type ClipRow = Schemas["ClipRow"];
export type Placement = Schemas["PlacementEntry"];
export type MakerInfo = Schemas["MakerOut"];
export type CutAsked = Schemas["CutAsked"];
export type AnyDoc = Schemas["AnyDocument"];
export type TakeBody = Schemas["TakeBody"];
export type CastBody = Schemas["CastBody"];
export type Tidy = Schemas["Tidy"];
export type TidyStep = Tidy["steps"][string];
export type TakeRow = Schemas["TakeRow"];
export type CharacterRow = Schemas["CharacterRow"];
export type Catalogue = Schemas["Catalogue"];
export type StepInfo = Schemas["StepOut"];
export type BodyStepInfo = Schemas["BodyStepOut"];
export type ParameterInfo = Schemas["ParameterOut"];
export type Inspection = Schemas["Inspection"];
export type CastReport = Schemas["CastReport"];
export type JoinReport = Schemas["JoinReport"];
export type SyncEstimate = Schemas["SyncEstimate"];
export type Job = Schemas["JobOut"];
export type Handover = Schemas["HandoverOut"];
export type HandoverSettings = Schemas["HandoverSettingsIn"];
export type HandoverForm = Schemas["HandoverFormOut"];
export type PresetEntry = Schemas["PresetEntry"];
export type Production = Schemas["ProductionOut"];
export type Session = Schemas["Session"];
export type CardRow = Schemas["CardRow"];
export type Proposal = { neutral: [number, number]; samples: Record<string, number>; strength: Record<string, number> };
export type SolveRow = Schemas["SolveRow"];
export type Snag = Schemas["SnagOut"];
export type SnagList = Schemas["SnagList"];
export type StackProposal = Schemas["StackProposal"];
export type StackRow = Schemas["StackRow"];
export type KeyReport = Schemas["KeyReport"];
export type FileIn = { media: string; name: string; recipe?: Record<string, unknown> };
/** A file for a take; part: what moves a skeleton is a body, or hands for one; which: the performer in its file. */
export type PartIn = FileIn & { part?: "body" | "hands"; which?: number };
export type Change = { path: string; value?: unknown; remove?: boolean };
export type Piece = Partial<Schemas["PieceAsked"]> & Pick<Schemas["PieceAsked"], "part">;
/** An edit of keys as the server makes it: what to do, on which keys of which channels, and how. */
export type KeyEdit = { do: string; channels: Record<string, string[]> } & Record<string, unknown>;
export type ChartPlace = Schemas["ChartPlace"];
export type LayoutStudy = Schemas["LayoutStudy"];
export type Drive = Schemas["Drive"];
export type SwapForeseen = Schemas["Foreseen"];
export type CastProposal = Schemas["ProposalOut"];
export type Extreme = Schemas["ExtremeOut"];
/** What is only wished for: changes of documents that are not stored, mends, an edit of keys; another character or other curves. */
export type Wish = {
  take?: Change[];
  cast?: Change[];
  join?: Change[];
  character?: string;
  curves?: string;
  mends?: string[];
  /** Of snags of the body. */
  bodyMends?: string[];
  edit?: KeyEdit;
};

/** The same of a shot: changes of the shot, and of layers by id. */
export type ShotWish = {
  shot?: Change[];
  layers?: Record<string, Change[]>;
  stepped?: boolean;
  /** Keys of snags whose mends are tried. */
  mends?: string[];
  /** An edit of keys of a layer that is tried. */
  edit?: { layer: string; edit: KeyEdit };
};

export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly where = "",
    readonly hint = "",
  ) {
    super(message);
  }

  get detail(): string {
    return [this.where, this.hint].filter(Boolean).join(". ");
  }
}

const REPEATABLE = /\/(open|evaluate|edits|keys|history|inspections|foresee|compare|sync|aim|grab|rig|body-place)$/;

/** The answer to a request. What the server could not take is made again once it is back; but where no answer came to a request
 * that may have made something, the person is told instead: it might be made twice. An edit says on which version it is made, so
 * it never is.
 */
async function send(method: string, path: string, body?: unknown, raw?: Blob, signal?: AbortSignal): Promise<Response> {
  const repeatable = method === "GET" || REPEATABLE.test(path);
  for (;;) {
    try {
      const answer = await sendOnce(method, path, body, raw, signal);
      if (answer.status !== 503) return await checked(answer);
    } catch (error) {
      if (!(error instanceof Problem) || error.status !== 0) throw error;
      if (!repeatable) {
        void whenBack();
        throw error;
      }
    }
    await whenBack(signal);
  }
}

async function checked(answer: Response): Promise<Response> {
  if (answer.ok) return answer;
  const said = (await answer.json().catch(() => null)) as { message?: string; where?: string; hint?: string } | null;
  throw new Problem(answer.status, said?.message ?? `the server answered ${answer.status}`, said?.where, said?.hint);
}

async function sendOnce(
  method: string,
  path: string,
  body?: unknown,
  raw?: Blob,
  signal?: AbortSignal,
): Promise<Response> {
  const headers: Record<string, string> = method === "GET" ? {} : { "X-Dynaface": "1" };
  if (body !== undefined) headers["Content-Type"] = "application/json";
  try {
    return await fetch(`/api${path}`, {
      method,
      headers,
      body: raw ?? (body === undefined ? undefined : JSON.stringify(body)),
      signal,
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new Problem(
      0,
      "the server does not answer",
      "",
      "It is tried again; what you did last may have to be done again",
    );
  }
}

const get = async <T>(path: string): Promise<T> => (await send("GET", path)).json() as Promise<T>;
const post = async <T>(path: string, body?: unknown, signal?: AbortSignal): Promise<T> =>
  (await send("POST", path, body, undefined, signal)).json() as Promise<T>;
const bundle = async (answer: Promise<Response>): Promise<Bundle> => readBundle(await (await answer).arrayBuffer());

type MatchedPart = keyof typeof MATCHES;
/** Addresses of matches by whose skeleton is matched. */
const MATCHES = { body: "match", hands: "hands-match" } as const;

export const api = {
  session: () => get<Session>("/session"),
  signIn: (name: string, password: string) => post<Session>("/session", { name, password }),
  signOut: () => send("DELETE", "/session"),
  sessions: () => get<Schemas["SessionOut"][]>("/sessions"),
  endSession: (id: string) => send("DELETE", `/sessions/${id}`),
  changePassword: (old: string, fresh: string) => send("PUT", "/password", { old, new: fresh }),
  catalogue: () => get<Catalogue>("/catalogue"),
  productions: () => get<Production[]>("/productions"),
  beginProduction: (name: string) => post<Production>("/productions", { name }),
  takes: (production: string) => get<TakeRow[]>(`/productions/${production}/takes`),
  characters: (production: string) => get<CharacterRow[]>(`/productions/${production}/characters`),
  upload: async (production: string, file: Blob) =>
    (await send("POST", `/productions/${production}/uploads`, undefined, file)).json() as Promise<{
      media: string;
      size: number;
    }>,
  beginUpload: (production: string, size: number) =>
    post<Schemas["Uploading"]>(`/productions/${production}/uploads/begin`, { size }),
  uploading: (upload: string) => get<Schemas["Uploading"]>(`/uploads/${upload}`),
  piece: async (upload: string, offset: number, piece: Blob) =>
    (await send("PUT", `/uploads/${upload}/${offset}`, undefined, piece)).json() as Promise<Schemas["Uploading"]>,
  applyNotes: (production: string, file: FileIn) =>
    post<Schemas["NotesApplied"]>(`/productions/${production}/notes`, file),
  inspect: (production: string, file: FileIn) => post<Inspection>(`/productions/${production}/inspections`, file),
  newTake: (production: string, slate: string, performer: string, files: PartIn[]) =>
    post<TakeDoc>(`/productions/${production}/takes`, { slate, performer, files }),
  newCharacter: (production: string, name: string, file: FileIn) =>
    post<CharacterDoc>(`/productions/${production}/characters`, { name, file }),
  openTake: (take: string, signal?: AbortSignal) => post<Opened>(`/takes/${take}/open`, undefined, signal),
  attach: (take: string, file: PartIn) => post<TakeDoc>(`/takes/${take}/sources`, file),
  evaluate: (take: string, request: Wish & { pieces: Piece[]; joints?: string[] }, signal?: AbortSignal) =>
    bundle(send("POST", `/takes/${take}/evaluate`, request, undefined, signal)),
  castReport: (take: string) => get<CastReport>(`/takes/${take}/cast`),
  study: (character: string) => get<Schemas["CharacterStudy"]>(`/characters/${character}/study`),
  aim: (character: string, joint: string, channel: string, way: string, millimetres: number) =>
    post<Drive>(`/characters/${character}/aim`, { joint, channel, way, millimetres }),
  renew: (character: string, file: FileIn) =>
    post<Schemas["CharacterChange"]>(`/characters/${character}/versions`, file),
  proportions: (take: string) => get<Schemas["Proportions"]>(`/takes/${take}/proportions`),
  extremes: async (take: string, cast: Change[] = []) =>
    (await post<Schemas["Extremes"]>(`/takes/${take}/extremes`, { cast })).extremes,
  foresee: (take: string, character: string) => post<SwapForeseen>(`/takes/${take}/swap/foresee`, { character }),
  swap: (take: string, character: string) => post<TakeDoc>(`/takes/${take}/swap`, { character }),
  sheet: async (take: string) => (await send("GET", `/takes/${take}/sheet`)).blob(),
  putSheet: (take: string, file: FileIn) => post<CastDoc>(`/takes/${take}/sheet`, file),
  compareSheet: async (take: string, file: FileIn) =>
    (await post<Schemas["SheetDifferences"]>(`/takes/${take}/sheet/compare`, file)).differences,
  copySheet: (take: string, performer: string) => post<CastDoc>(`/takes/${take}/sheet/copy`, { performer }),
  bringClips: async (production: string, performer: string, file: FileIn, startFrame: number) =>
    (await post<Schemas["ImportedClips"]>(`/productions/${production}/clips`, { performer, file, startFrame })).takes,
  health: (character: string) => get<Schemas["CharacterHealth"]>(`/characters/${character}/health`),
  joinReport: (take: string) => get<JoinReport>(`/takes/${take}/join`),
  matchReport: (take: string) => get<Schemas["MatchReport"]>(`/takes/${take}/match`),
  handsReport: (take: string) => get<Schemas["MatchReport"]>(`/takes/${take}/hands-match`),
  bodies: (production: string, file: FileIn) => post<Schemas["FoundBody"][]>(`/productions/${production}/bodies`, file),
  keepMatch: (take: string, part: MatchedPart, name: string) =>
    post<Schemas["MatchDocument"]>(`/takes/${take}/${MATCHES[part]}`, { name }),
  matchFile: async (take: string, part: MatchedPart) =>
    (await send("GET", `/takes/${take}/${MATCHES[part]}/file`)).blob(),
  openFeed: (production: string) => post<Schemas["FeedDoor"]>(`/productions/${production}/feed`),
  feedToken: (production: string) => post<Schemas["FeedToken"]>(`/productions/${production}/feed/token`),
  feedProfiles: (production: string) =>
    get<Schemas["FeedProfileDocument"][]>(`/productions/${production}/feed/profiles`),
  measures: (production: string) => get<Schemas["MeasuresDocument"][]>(`/productions/${production}/measures`),
  ownMeasures: (take: string) => post<Schemas["MeasuresDocument"]>(`/takes/${take}/measures`),
  measureFromBody: (take: string) => post<Schemas["MeasuresDocument"]>(`/takes/${take}/measures/from-body`),
  putMatch: (take: string, part: MatchedPart, file: FileIn) =>
    post<Schemas["JoinDocument"]>(`/takes/${take}/${MATCHES[part]}/file`, file),
  copyMatch: (match: string, production: string) =>
    post<Schemas["MatchDocument"]>(`/matches/${match}/copies`, { production }),
  sync: (take: string) => post<SyncEstimate>(`/takes/${take}/sync`),
  findBody: (take: string) => post<Schemas["BodyFound"]>(`/takes/${take}/body-place`),
  media: async (source: string, signal?: AbortSignal) =>
    (await send("GET", `/sources/${source}/media`, undefined, undefined, signal)).arrayBuffer(),
  peaks: (source: string) => bundle(send("GET", `/sources/${source}/peaks`)),
  edit: (document: string, version: number, label: string, changes: Change[]) =>
    post<AnyDoc>(`/documents/${document}/edits`, { version, label, changes }),
  undo: (documents: string[]) => post<{ document: AnyDoc; label: string }>("/undo", { documents }),
  redo: (documents: string[]) => post<{ document: AnyDoc; label: string }>("/redo", { documents }),
  history: (documents: string[]) => post<{ undo: string; redo: string }>("/history", { documents }),
  handOver: (take: string, settings: HandoverSettings) => post<Job>(`/takes/${take}/handovers`, settings),
  handOverRole: (shot: string, role: string, settings: HandoverSettings) =>
    post<Job>(`/shots/${shot}/handovers`, { role, settings }),
  handOverAll: (production: string, of: string[], settings: HandoverSettings) =>
    post<Job>(`/productions/${production}/handovers`, { of, settings }),
  bringBack: (production: string, files: { media: string; name: string }[], onto: string, asFace: boolean) =>
    post<Job>(`/productions/${production}/returns`, { files, onto, as_face: asFace }),
  handoverForms: () => get<Schemas["HandoverFormsOut"]>("/handover-forms"),
  handoverPresets: (production: string) =>
    post<Schemas["PresetsDocument"]>(`/productions/${production}/handover-presets`),
  cards: (production: string) => get<CardRow[]>(`/productions/${production}/cards`),
  propose: (take: string) => post<Job>(`/takes/${take}/proposals`),
  newCard: (take: string, card: Schemas["NewCard"]) => post<Job>(`/takes/${take}/cards`, card),
  solves: (take: string) => get<SolveRow[]>(`/takes/${take}/solves`),
  solve: (take: string, wanted: Schemas["NewSolve"]) => post<Job>(`/takes/${take}/solves`, wanted),
  lookThrough: (take: string) => post<Job>(`/takes/${take}/preparations`),
  points: (source: string, first: number, last: number) =>
    bundle(send("GET", `/sources/${source}/points/${first}/${last}`)),
  extremeOf: (take: string, shape: string) => get<Schemas["ShownAgain"]>(`/takes/${take}/extremes/${shape}`),
  doubts: (take: string, first: number, last: number) =>
    get<Schemas["Doubts"]>(`/takes/${take}/neutral/${first}/${last}`),
  copyCard: (card: string, day: string) => post<CardDoc>(`/cards/${card}/copies`, { day }),
  generalHead: () => bundle(send("GET", "/heads/general")),
  head: (source: string) => bundle(send("GET", `/sources/${source}/head`)),
  confidence: (source: string) => bundle(send("GET", `/sources/${source}/confidence`)),
  chart: () => get<ChartPlace[]>("/chart"),
  layouts: (production: string) => get<LayoutDoc[]>(`/productions/${production}/layouts`),
  newLayout: (take: string, name: string, neutral: [number, number] | null) =>
    post<LayoutDoc>(`/takes/${take}/layouts`, { name, neutral }),
  proposePlaces: (layout: string) => post<LayoutDoc>(`/layouts/${layout}/proposals`),
  markerSamples: (layout: string) => post<Job>(`/layouts/${layout}/samples`),
  studyLayout: (layout: string) => get<LayoutStudy>(`/layouts/${layout}/study`),
  solveMarkers: (take: string, layout: string) => post<Job>(`/takes/${take}/marker-solves`, { layout }),
  markers: (source: string) => bundle(send("GET", `/sources/${source}/markers`)),
  solvedMarkers: (source: string) => bundle(send("GET", `/sources/${source}/solved-markers`)),
  dotLayouts: (production: string) => get<DotsDoc[]>(`/productions/${production}/dots`),
  newDots: (take: string, name: string) => post<DotsDoc>(`/takes/${take}/dots`, { name }),
  pickDot: (dots: string, given: Schemas["NewPick"]) => post<DotsDoc>(`/dots/${dots}/picks`, given),
  dotSamples: (dots: string) => post<Job>(`/dots/${dots}/samples`),
  solveDots: (take: string, dots: string) => post<Job>(`/takes/${take}/dot-solves`, { dots }),
  followedDots: (source: string) => bundle(send("GET", `/sources/${source}/dots`)),
  snags: (take: string) => post<SnagList>(`/takes/${take}/snags`),
  mend: (take: string, version: number, keys: string[]) => post<TakeDoc>(`/takes/${take}/mends`, { version, keys }),
  bodySnags: (take: string) => post<SnagList>(`/takes/${take}/body-snags`),
  mendBody: (take: string, version: number, keys: string[]) =>
    post<JoinDoc>(`/takes/${take}/body-mends`, { version, keys }),
  roleSnags: (shot: string, role: string) => post<SnagList>(`/shots/${shot}/snags`, { role }),
  mendRole: (shot: string, role: string, keys: string[]) => post<LayerDoc>(`/shots/${shot}/mends`, { role, keys }),
  proposal: (take: string) => get<StackProposal>(`/takes/${take}/proposal`),
  editKeys: (take: string, version: number, label: string, edit: KeyEdit) =>
    post<{ document: TakeDoc; report: Record<string, KeyReport> }>(`/takes/${take}/keys`, { version, label, edit }),
  editLayerKeys: (layer: string, version: number, label: string, edit: KeyEdit) =>
    post<{ document: LayerDoc; report: Record<string, KeyReport> }>(`/layers/${layer}/keys`, { version, label, edit }),
  alignedTake: (take: string, other: string) => bundle(send("GET", `/takes/${take}/aligned/${other}`)),
  stacks: (production: string) => get<StackRow[]>(`/productions/${production}/stacks`),
  saveStack: (take: string, name: string) => post<StackDoc>(`/takes/${take}/stacks`, { name }),
  bodyStacks: (production: string) => get<StackRow[]>(`/productions/${production}/body-stacks`),
  saveBodyStack: (take: string, name: string) =>
    post<Schemas["BodyStackDocument"]>(`/takes/${take}/body-stacks`, { name }),
  runBodyStack: (stack: string, takes: string[]) => post<Schemas["StackRan"]>(`/body-stacks/${stack}/runs`, { takes }),
  runStack: (stack: string, takes: string[]) => post<Schemas["StackRan"]>(`/stacks/${stack}/runs`, { takes }),
  shots: (production: string) => get<ShotRow[]>(`/productions/${production}/shots`),
  newShot: (production: string, name: string, takes: string[], rate = "") =>
    post<ShotDoc>(`/productions/${production}/shots`, { name, takes, rate }),
  reel: (production: string) => get<ClipRow[]>(`/productions/${production}/reel`),
  newClip: (take: string, first: string, last: string, name: string) =>
    post<Schemas["ClipDocument"]>(`/takes/${take}/clips`, { first, last, name }),
  openShot: async (shot: string, signal?: AbortSignal) =>
    (await send("GET", `/shots/${shot}`, undefined, undefined, signal)).json() as Promise<OpenedShot>,
  evaluateRole: (
    shot: string,
    request: ShotWish & { role: string; pieces: Piece[]; rig?: string[] },
    signal?: AbortSignal,
  ) => bundle(send("POST", `/shots/${shot}/evaluate`, request, undefined, signal)),
  cutShot: (shot: string, cut: CutAsked) => post<ShotDoc>(`/shots/${shot}/cuts`, cut),
  bringProp: (shot: string, asked: Schemas["PropBrought"]) => post<ShotDoc>(`/shots/${shot}/props`, asked),
  findHolds: (shot: string, prop: string, version: number) =>
    post<ShotDoc>(`/shots/${shot}/props/${prop}/holds`, { version }),
  holdClip: (clip: string, version: number, held: boolean) =>
    post<Schemas["ClipDocument"]>(`/clips/${clip}/hold`, { version, held }),
  grab: (shot: string, asked: Schemas["GrabAsked"]) => post<Schemas["Grabbed"]>(`/shots/${shot}/grab`, asked),
  rigOfRole: (shot: string, role: string) => post<Schemas["RigOut"]>(`/shots/${shot}/rig`, { role }),
  newLayer: (shot: string, layer: Schemas["NewLayer"]) => post<LayerDoc>(`/shots/${shot}/layers`, layer),
  endMaker: (layer: string, maker: string, version: number) =>
    post<LayerDoc>(`/layers/${layer}/makers/${maker}/keys`, { version }),
  bakeLayers: (shot: string, asked: Schemas["BakeAsked"]) => post<LayerDoc>(`/shots/${shot}/bakes`, asked),
  bakeTake: (shot: string, role: string) => post<TakeDoc>(`/shots/${shot}/takes`, { role }),
  looseBlink: (layer: string, maker: string, version: number, frame: number) =>
    post<LayerDoc>(`/layers/${layer}/makers/${maker}/loose`, { version, frame }),
  ownProfiles: (production: string) => post<Schemas["ProfilesDocument"]>(`/productions/${production}/profiles`),
  poses: (production: string) => get<Schemas["PoseDocument"][]>(`/productions/${production}/poses`),
  newPose: (shot: string, pose: Schemas["NewPose"]) => post<Schemas["PoseDocument"]>(`/shots/${shot}/poses`, pose),
  findWords: (take: string, text: string, language: string) => post<Job>(`/takes/${take}/words`, { text, language }),
  giveFace: (take: string, text: string, language: string) => post<Job>(`/takes/${take}/faces`, { text, language }),
  wordsLead: (shot: string, asked: Schemas["WordsLead"]) => post<ShotDoc>(`/shots/${shot}/leads`, asked),
  captureLeads: (layer: string, asked: Schemas["LeadAsked"]) => post<LayerDoc>(`/layers/${layer}/leads`, asked),
  snapLooks: (layer: string, maker: string, version: number, within: number) =>
    post<Schemas["SnappedOut"]>(`/layers/${layer}/makers/${maker}/snap`, { version, within }),
  shotSound: async (shot: string, signal?: AbortSignal) =>
    (await send("GET", `/shots/${shot}/sound`, undefined, undefined, signal)).arrayBuffer(),
  shotPeaks: (shot: string) => bundle(send("GET", `/shots/${shot}/peaks`)),
  lineups: (production: string) => get<Schemas["LineUpRow"][]>(`/productions/${production}/lineups`),
  newLineup: (production: string, name: string, takes: string[]) =>
    post<Schemas["LineUpDocument"]>(`/productions/${production}/lineups`, { name, takes }),
  lineup: (lineup: string) => get<Schemas["OpenedLineUp"]>(`/lineups/${lineup}`),
  lineupTakes: (lineup: string, version: number, takes: string[]) =>
    post<Schemas["LineUpDocument"]>(`/lineups/${lineup}/takes`, { version, takes }),
  lineupByTimecode: (lineup: string, version: number, keys: string[]) =>
    post<Schemas["LineUpDocument"]>(`/lineups/${lineup}/timecode`, { version, keys }),
  compareLineup: (lineup: string, by: Schemas["Compared"]["by"], keys: string[]) =>
    post<Job>(`/lineups/${lineup}/compare`, { by, keys }),
  useLineup: (lineup: string) => post<Schemas["LineUpUsed"]>(`/lineups/${lineup}/use`),
  layOnShot: (lineup: string, shot: string, version: number) =>
    post<ShotDoc>(`/lineups/${lineup}/shots/${shot}`, { version }),
  shotOfLineup: (lineup: string, name: string) => post<ShotDoc>(`/lineups/${lineup}/shot`, { name }),
  handovers: (production: string) => get<Handover[]>(`/productions/${production}/handovers`),
  jobs: (production: string) => get<Job[]>(`/productions/${production}/jobs`),
  cancelJob: (job: string) => post<Job>(`/jobs/${job}/cancel`),
};

/** Everything that the server is asked. */
export type Answers = typeof api;
