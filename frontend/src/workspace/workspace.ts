// What is open: a take with its documents and curves. Edits go to the server; what a drag shows comes back from it.
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { api, Problem, type Change, type Doc, type Opened, type Overrides, type Part } from "../api/client";
import type { Bundle, Table } from "../api/bundle";
import { assembled, type Body, type Curves } from "./assemble";
import { clock } from "../playback/clock";
import { notify } from "../app/notices";
import { alignedTo } from "./difference";

export type { Body, Curves, Held } from "./assemble";
type State = {
  opened: Opened | null;
  curves: Curves | null;
  body: Body | null;
  /** Rises with each new set of curves or weights. */
  revision: number;
  selected: string[];
  comparing: boolean;
  /** Another solve of the same footage or another take that the deck compares with, frame by frame of this one. */
  against: { source: string; name: string; raw: Table } | null;
  saving: number;
  /** The documents that are worked on beside the take: a marker layout, dots, a performer card. */
  beside: Partial<Record<Beside, string>>;
  /** Weights set by hand to try the rig, by target; they are not stored. */
  tried: Record<string, number>;
};

const DEFAULT_SELECTION = ["jawOpen", "eyeBlinkLeft", "eyeBlinkRight"];

export const useWorkspace = create<State>(() => ({
  opened: null,
  curves: null,
  body: null,
  revision: 0,
  selected: DEFAULT_SELECTION,
  comparing: true,
  against: null,
  saving: 0,
  beside: {},
  tried: {},
}));

/** Some of the state; what uses it is drawn again only when one of these changes, not with every new set of curves. */
export function useOpen<K extends keyof State>(...keys: K[]): Pick<State, K> {
  return useWorkspace(useShallow((s) => Object.fromEntries(keys.map((k) => [k, s[k]])) as Pick<State, K>));
}

const { getState: now, setState: set } = useWorkspace;
const ALL: Part[] = ["raw", "tidied", "weights", "motion"];

function problem(error: unknown) {
  notify(error instanceof Problem ? error : new Problem(0, String(error)));
}

let wished: { take: string; frame: number } | null = null;

/** Where a take is to be shown when it is opened next. */
export function wishFrame(take: string, frame: number) {
  wished = { take, frame };
}

// What is asked for one take may be answered after another was opened: it is then of no use.
let opening = 0;

export async function openTake(id: string) {
  const mine = ++opening;
  set({ opened: null, curves: null, body: null, tried: {}, against: null, beside: {} });
  clock.load(0, clock.fps); // the time of another take means nothing here
  try {
    const opened = await api.take(id);
    if (mine !== opening) return;
    set({ opened });
    await Promise.all([refresh(true), loadSound(opened)]);
    if (mine !== opening) return;
    if (wished?.take === id) clock.seekFrame(wished.frame);
    wished = null;
  } catch (error) {
    problem(error);
  }
}

export function closeTake() {
  opening++;
  clock.pause();
  void clock.setSound(null);
  set({ opened: null, curves: null, body: null, against: null });
}

let soundOf = "";

async function loadSound(opened: Opened) {
  const sound = opened.sources.sound;
  const mine = opening;
  clock.setSoundOffset(Number(opened.take.body.soundOffset ?? 0));
  if (sound?.id === soundOf) return;
  soundOf = sound?.id ?? "";
  const media = sound ? await api.media(sound.id) : null;
  if (mine === opening) await clock.setSound(media);
}

/** Evaluates what is stored. */
export async function refresh(first = false) {
  const opened = now().opened;
  if (!opened?.sources.curves) {
    set((s) => ({ curves: null, body: null, revision: s.revision + 1 }));
    const footage = opened?.sources.footage?.info ?? opened?.sources.markers?.info;
    const [over, under = 1] = String(footage?.rate ?? "60").split("/").map(Number);
    clock.load(Number(footage?.seconds ?? opened?.sources.sound?.info.seconds ?? 0), over! / under);
    return;
  }
  try {
    const mine = opening;
    const made = await api.evaluate(opened.take.id, ALL);
    if (mine === opening) take(made, !first);
  } catch (error) {
    problem(error);
  }
}

function take(made: Bundle, keepTime: boolean) {
  const { curves, body } = assembled(now(), made);
  set((s) => ({ curves, body, revision: s.revision + 1 }));
  clock.load(curves.frames / curves.rate, curves.rate, keepTime);
}

// Previews: the newest wins; while one is under way only the latest wish is kept.
let under = false;
let wish: { parts: Part[]; overrides: Overrides } | null = null;
let generation = 0;
/** Milliseconds from a slider's move to new curves and weights in place; read by the benchmark. */
export const previewTimes: number[] = [];

export async function preview(parts: Part[], overrides: Overrides) {
  wish = { parts, overrides };
  if (under) return;
  under = true;
  while (wish) {
    const { parts: asked, overrides: given }: { parts: Part[]; overrides: Overrides } = wish;
    wish = null;
    const opened = now().opened;
    const mine = generation;
    if (!opened || !now().curves) break;
    try {
      const began = performance.now();
      const made = await api.evaluate(opened.take.id, asked, given);
      if (mine === generation) {
        take(made, true);
        previewTimes.push(performance.now() - began);
      }
    } catch (error) {
      problem(error);
    }
  }
  under = false;
}

export type Beside = "layout" | "dots" | "card";
export type DocumentKind = "take" | "cast" | "join";

/** The documents on which undo works while a take is open. */
export function documentIds(opened: Opened, beside: Partial<Record<Beside, string>>): string[] {
  const { take, cast, join, character } = opened;
  return [take.id, cast?.id, join?.id, character?.id, ...Object.values(beside)].filter((id): id is string => !!id);
}

/** Undo works on this document too while the take is open. */
export function workBeside(kind: Beside, id: string | undefined) {
  if (now().beside[kind] === id) return;
  set({ beside: { ...now().beside, [kind]: id } });
  tellHistory();
}

function put(document: Doc) {
  const opened = now().opened;
  if (!opened) return;
  const next = { ...opened };
  if (document.id === opened.take.id) next.take = document;
  else if (document.id === opened.cast?.id) next.cast = document;
  else if (document.id === opened.join?.id) next.join = document;
  set({ opened: next });
}

/** Says that history changed by an edit that was not made here. */
export const tellHistory = () => historyListeners.forEach((l) => l());

const historyListeners = new Set<() => void>();
export const onHistory = (listener: () => void) => {
  historyListeners.add(listener);
  return () => void historyListeners.delete(listener);
};

// One change after the other: each builds on the version that the one before made.
let queue: Promise<void> = Promise.resolve();

/** Makes a change and shows its result; on a conflict what is stored is shown again. */
export function edit(kind: DocumentKind, label: string, changes: Change[]): Promise<void> {
  queue = queue.then(() => makeEdit(kind, label, changes));
  return queue;
}

function makeEdit(kind: DocumentKind, label: string, changes: Change[]) {
  return saved(now().opened?.[kind], async (document) => {
    put(await api.edit(document.id, document.version, label, changes));
    await afterChange(changes.map((c) => c.path));
  });
}

/** A change of the take that the server works out itself, in its turn among the others. */
export function change(make: (take: Doc) => Promise<Doc>): Promise<void> {
  queue = queue.then(() => saved(now().opened?.take, async (take) => {
    const made = await make(take);
    put(made);
    clock.setSoundOffset(Number(made.body.soundOffset ?? 0));
    await refresh();
  }));
  return queue;
}

/** Changes a document and shows that it is being saved; after an error what is stored is shown again. */
async function saved(document: Doc | null | undefined, work: (document: Doc) => Promise<void>) {
  if (!document) return;
  generation++;
  wish = null;
  set((s) => ({ saving: s.saving + 1 }));
  try {
    await work(document);
  } catch (error) {
    problem(error);
    await reload();
  } finally {
    set((s) => ({ saving: s.saving - 1 }));
    historyListeners.forEach((l) => l());
  }
}

async function afterChange(paths: string[]) {
  if (paths.some((p) => p === "character" || p.startsWith("sources/") || p === "performer")) return reload();
  if (paths.every((p) => ["notes", "circled", "archived", "slate", "pins", "dismissed"].includes(p.split("/")[0]!))) return;
  if (paths.every((p) => p === "soundOffset")) {
    clock.setSoundOffset(Number(now().opened?.take.body.soundOffset ?? 0));
    set((s) => ({ revision: s.revision + 1 }));
    return;
  }
  await refresh();
}

export async function reload() {
  const opened = now().opened;
  if (!opened) return;
  try {
    const mine = opening;
    const again = await api.take(opened.take.id);
    if (mine !== opening) return;
    set({ opened: again });
    await Promise.all([refresh(), loadSound(again)]);
  } catch (error) {
    problem(error);
  }
  historyListeners.forEach((l) => l());
}

export function travel(way: "undo" | "redo"): Promise<void> {
  queue = queue.then(() => makeTravel(way));
  return queue;
}

async function makeTravel(way: "undo" | "redo") {
  const opened = now().opened;
  if (!opened) return;
  generation++;
  try {
    const { label } = await api[way](documentIds(opened, now().beside));
    notify({ kind: "info", message: `${way === "undo" ? "Undone" : "Redone"}: ${label}` });
    await reload();
  } catch (error) {
    problem(error);
  }
  historyListeners.forEach((l) => l());
}

export function select(channels: string[]) {
  set({ selected: channels });
}

/** Lays another solve under the chosen one, or takes it away. */
export async function compareWith(other: { source: string; name: string } | null) {
  const { opened, curves } = now();
  if (!other || !opened || !curves) return set((s) => ({ against: null, revision: s.revision + 1 }));
  try {
    const [made, solves] = await Promise.all([api.evaluate(opened.take.id, ["raw"], { curves: other.source }), api.solves(opened.take.id)]);
    const firstOf = (source?: string) => solves.find((s) => s.source === source)?.first ?? 0;
    const raw = alignedTo(curves, made.arrays.raw!, made.head.channels as string[], firstOf(opened.sources.curves?.id) - firstOf(other.source));
    set((s) => ({ against: { ...other, raw }, comparing: true, revision: s.revision + 1 }));
  } catch (error) {
    problem(error);
  }
}

/** Lays another take of the same moment under this one, or takes it away. */
export async function compareWithTake(other: { id: string; slate: string } | null): Promise<Record<string, [number, number, number, number]> | null> {
  const opened = now().opened;
  if (!other || !opened) {
    set((s) => ({ against: null, revision: s.revision + 1 }));
    return null;
  }
  try {
    const { head, arrays } = await api.beside(opened.take.id, other.id);
    set((s) => ({ against: { source: other.id, name: other.slate, raw: arrays.other! }, comparing: true, revision: s.revision + 1 }));
    return head.numbers as Record<string, [number, number, number, number]>;
  } catch (error) {
    problem(error);
    return null;
  }
}

export function setComparing(comparing: boolean) {
  set({ comparing });
}

export function tryTarget(target: string, weight: number | null) {
  set((s) => {
    const tried = { ...s.tried };
    if (weight === null) delete tried[target];
    else tried[target] = weight;
    return { tried };
  });
}

export function stopTrying() {
  set({ tried: {} });
}
