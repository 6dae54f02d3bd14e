// What is open: the active session, and what is chosen whatever is open. Commands go to the session that is active when they are given.
import { create } from "zustand";
import { useStore } from "zustand/react";
import { useShallow } from "zustand/react/shallow";
import { createStore } from "zustand/vanilla";
import { api, type Change, type TakeDoc, type Wish } from "../api/client";
import { notify } from "../shared/notices";
import { clock } from "../playback/clock";
import { TakeSession, type DocumentKind } from "./session";
import { ShotSession } from "./shotSession";
import { NOTHING_OPEN, type Companion, type SessionState } from "./state";

export type { DocumentKind } from "./session";
export type { Companion, SessionState } from "./state";
export type { Body, Curves, Held } from "./tables";
/** A document that is worked on beside what is open: undo and redo are its own meanwhile. */
export type Beside = { id: string; travel: (way: "undo" | "redo") => Promise<void> };
type Workspace = {
  session: TakeSession | ShotSession | null;
  selected: string[];
  comparing: boolean;
  beside: Beside | null;
  /** Whether a layer was opened from elsewhere, and has not been shown in the drawer yet. */
  layerWished: boolean;
};

const DEFAULT_SELECTION = ["jawOpen", "eyeBlinkLeft", "eyeBlinkRight"];
const NONE = createStore<SessionState>(() => NOTHING_OPEN);

export const useWorkspace = create<Workspace>(() => ({
  session: null,
  selected: DEFAULT_SELECTION,
  comparing: true,
  beside: null,
  layerWished: false,
}));

/** The session that is active, of a take or a shot. */
export const openSession = () => useWorkspace.getState().session;
/** The session of the take that is open. */
export const activeSession = (): TakeSession | null => {
  const open = openSession();
  return open instanceof TakeSession ? open : null;
};
/** The session of the shot that is open. */
export const activeShot = (): ShotSession | null => {
  const open = openSession();
  return open instanceof ShotSession ? open : null;
};
/** What the active session holds now. */
export const sessionState = (): SessionState => openSession()?.now ?? NOTHING_OPEN;

/** A part of what the active session holds. */
export function useSession<T>(select: (state: SessionState) => T): T {
  return useStore(
    useWorkspace((w) => w.session?.state ?? NONE),
    select,
  );
}

type Open = SessionState & Omit<Workspace, "session">;

/** Some of what is open and chosen; what uses it is drawn again only when one of these changes. */
export function useOpen<K extends keyof Open>(...keys: K[]): Pick<Open, K> {
  const pick = (from: object): object =>
    Object.fromEntries(keys.filter((k) => k in from).map((k) => [k, from[k as never]]));
  const own = useSession(useShallow((s: SessionState) => pick(s)));
  const chosen = useWorkspace(useShallow((w) => pick(w)));
  return { ...chosen, ...own } as Pick<Open, K> & object;
}

/** Calls when the active session's state, or which one is active, changes. */
export function onSession(listener: (state: SessionState) => void): () => void {
  let off = openSession()?.state.subscribe(listener);
  const outer = useWorkspace.subscribe((w, before) => {
    if (w.session === before.session) return;
    off?.();
    off = w.session?.state.subscribe(listener);
    listener(sessionState());
  });
  return () => {
    off?.();
    outer();
  };
}

const historyListeners = new Set<() => void>();
export const onHistory = (listener: () => void) => {
  historyListeners.add(listener);
  return () => void historyListeners.delete(listener);
};
/** Says that history changed by an edit that was not made by a session. */
export const tellHistory = () => historyListeners.forEach((l) => l());

let wished: { take: string; frame: number } | null = null;

/** Where a take is to be shown when it is opened next. */
export function wishFrame(take: string, frame: number) {
  wished = { take, frame };
}

let wishedLayer: { shot: string; role: string; layer: string; frame: number } | null = null;

/** Which layer of a shot is to be open, at a frame: at once where the shot is, else when it is opened next. */
export function wishLayer(shot: string, role: string, layer: string, frame: number) {
  wishedLayer = { shot, role, layer, frame };
  grantLayer(activeShot());
}

function grantLayer(session: ShotSession | null) {
  if (!wishedLayer || session?.id !== wishedLayer.shot || !session.shot) return;
  session.choose(wishedLayer.role);
  session.openLayer(wishedLayer.layer);
  clock.seekFrame(wishedLayer.frame);
  wishedLayer = null;
  useWorkspace.setState({ layerWished: true });
}

const AROUND = { server: api, player: clock, notify, historyChanged: tellHistory };

export async function openTake(id: string) {
  closeOpen();
  const session = new TakeSession(id, AROUND);
  useWorkspace.setState({ session });
  const frame = wished?.take === id ? wished.frame : undefined;
  wished = null;
  await session.open(frame);
}

export async function openShot(id: string) {
  closeOpen();
  const session = new ShotSession(id, AROUND);
  useWorkspace.setState({ session });
  await session.open();
  grantLayer(session);
}

/** Closes the take or the shot that is open. */
export function closeOpen() {
  const session = openSession();
  if (!session) return;
  session.close();
  clock.pause();
  void clock.setSound(null);
  useWorkspace.setState({ session: null });
}

const done = Promise.resolve();
export const edit = (kind: DocumentKind, label: string, changes: Change[]): Promise<void> =>
  activeSession()?.edit(kind, label, changes) ?? done;
export const change = (make: (take: TakeDoc) => Promise<TakeDoc>): Promise<void> =>
  activeSession()?.change(make) ?? done;
export const preview = (wish: Wish): Promise<void> => activeSession()?.preview(wish) ?? done;
export const travel = (way: "undo" | "redo"): Promise<void> =>
  useWorkspace.getState().beside?.travel(way) ?? openSession()?.travel(way) ?? done;
export const workBeside = (beside: Beside | null) => useWorkspace.setState({ beside });
export const reload = (): Promise<void> => openSession()?.reload() ?? done;
export const setCompanion = (kind: Companion, id: string | undefined) => activeSession()?.setCompanion(kind, id);
export const tryTarget = (target: string, weight: number | null) => activeSession()?.tryTarget(target, weight);
export const stopTrying = () => activeSession()?.stopTrying();
export const select = (channels: string[]) => useWorkspace.setState({ selected: channels });
export const setComparing = (comparing: boolean) => useWorkspace.setState({ comparing });

/** Lays another solve, or another take, under the open take, or takes it away. */
export async function compareWith(other: { source: string; name: string } | null) {
  if (other) setComparing(true);
  await activeSession()?.compareWith(other);
}

export async function compareWithTake(other: { id: string; slate: string } | null) {
  if (other) setComparing(true);
  return (await activeSession()?.compareWithTake(other)) ?? null;
}
