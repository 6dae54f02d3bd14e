// The connection with the process of feeds: one for the page, opened again when it breaks off.
import { replaceEqualDeep } from "@tanstack/react-query";
import { create } from "zustand";
import { api, Problem } from "../api/client";
import { AGAIN, feedSocket, isRefusal, sendOn } from "../api/feedSocket";
import { notify } from "../shared/notices";
import { endLive } from "../viewer/live";
import { closeMicrophone } from "./microphone";
import { Frames } from "./frames";
import { followTimeline, sendsTimeline } from "./timelineOut";
import {
  calledOf,
  senderIn,
  sends,
  senderOf,
  watchedOf,
  type Described,
  type FeedState,
  type Hello,
} from "./feedModel";

type Feed = {
  production: string;
  phase: "closed" | "opening" | "open" | "lost";
  hello: Hello | null;
  state: FeedState | null;
  watched: number | null;
  /** Senders whose characters are shown beside that one's. */
  beside: number[];
  /** Whether the person chose who is watched. */
  chosen: boolean;
  /** Whether the panel is shown: the viewer then shows the character that is moved. */
  shown: boolean;
};
const NONE: Feed = {
  production: "",
  phase: "closed",
  hello: null,
  state: null,
  watched: null,
  beside: [],
  chosen: false,
  shown: false,
};
export const useFeed = create<Feed>(() => NONE);
const { getState: now, setState: set } = useFeed;

const MOST_BESIDE = 2; // as live/room.py has it, with the one who is watched

let socket: WebSocket | null = null;
const frames = new Frames();
let channels = 0;
let orders = 0;
let timer = 0;
const waiting = new Map<number, { done: (said: string) => void; failed: (error: Problem) => void }>();

/** Begins to listen, for as long as something wants it. */
export async function openFeed(production: string) {
  if (now().production === production && now().phase !== "closed") return;
  closeFeed();
  set({ ...NONE, production, phase: "opening", shown: now().shown });
  await connect(production);
}

async function connect(production: string) {
  try {
    if (!channels) channels = (await api.catalogue()).channels.length;
    const made = await feedSocket(production, "feed");
    if (now().production !== production || now().phase === "open") return made.close();
    made.binaryType = "arraybuffer";
    made.onopen = () => set({ phase: "open" });
    made.onmessage = (event: MessageEvent<string | ArrayBuffer>) => taken(event.data);
    made.onclose = () => {
      if (socket === made) lost(production);
    };
    socket = made;
  } catch (error) {
    if (isRefusal(error)) {
      notify(error);
      closeFeed();
    } else lost(production);
  }
}

function lost(production: string) {
  for (const one of waiting.values()) one.failed(new Problem(0, "the process of feeds was not reached"));
  waiting.clear();
  endLive();
  if (now().production !== production) return;
  set({ phase: "lost", state: null });
  window.clearTimeout(timer);
  timer = window.setTimeout(() => void connect(production), AGAIN);
}

export function closeFeed() {
  window.clearTimeout(timer);
  closeMicrophone();
  const held = socket;
  socket = null;
  held?.close();
  frames.forget();
  if (now().phase !== "closed") endLive();
  set({ ...NONE, shown: now().shown });
}

const reached = () => socket?.readyState === WebSocket.OPEN;

/** Puts an order on its way: its number. */
function post(what: string, given: Record<string, unknown>): number {
  sendOn(socket, JSON.stringify({ ...given, do: what, number: ++orders }));
  return orders;
}

followTimeline(post, () => reached() && sendsTimeline(now().state));

function taken(data: string | ArrayBuffer) {
  if (typeof data !== "string") return frame(data);
  const said = JSON.parse(data) as { type: string; number?: number } & Record<string, unknown>;
  if (said.type === "hello") set({ hello: said as unknown as Hello });
  else if (said.type === "state") arrived(said as unknown as FeedState);
  else if (said.type === "character") frames.describe(said as unknown as Described);
  else if (said.type === "done" || said.type === "refused") {
    const one = waiting.get(said.number ?? -1);
    waiting.delete(said.number ?? -1);
    if (said.type === "done") one?.done(String(said.said ?? ""));
    else one?.failed(new Problem(422, String(said.message), String(said.where ?? ""), String(said.hint ?? "")));
  }
}

/** A new state: where nobody is watched, or who was is gone or, not being chosen, silent, the first that sends is. */
function arrived(state: FeedState) {
  const before = now();
  // What is as it was stays the same object: five times a second the page draws only what is not.
  set({ state: replaceEqualDeep(before.state, state) });
  const beside = before.beside.filter((b) => state.senders.some((s) => s.sender === b));
  if (beside.length < before.beside.length) set({ beside });
  const held = senderIn(state, before.watched);
  if (held && (before.chosen || sends(held) || !state.senders.some(sends))) return;
  const first = state.senders.find(sends) ?? state.senders[0];
  if (first) watch(first.sender, false);
  else if (before.watched !== null) unwatched();
}

function unwatched() {
  set({ watched: null, beside: [], chosen: false });
  frames.forget();
  endLive();
}

/** Shows the character of a sender. */
export function watch(sender: number, chosen = true) {
  set({ watched: sender, beside: now().beside.filter((b) => b !== sender), chosen });
  tellWatched();
}

/** Shows the character of a sender beside that of the one who is watched, or no more. */
export function showBeside(sender: number, shown: boolean) {
  const others = now().beside.filter((b) => b !== sender);
  set({ beside: shown ? [...others, sender].slice(-MOST_BESIDE) : others, chosen: true });
  tellWatched();
}

const tellWatched = () => void order("watch", { senders: watchedOf(now()) }).catch(() => undefined);

function frame(raw: ArrayBuffer) {
  // Said at once: until it is, only so many more come, and a page that is slow sees less instead of later.
  sendOn(socket, JSON.stringify({ do: "seen", sender: senderOf(raw) }));
  if (!now().shown) return;
  frames.show(raw, channels, watchedOf(now()), (sender) => {
    const found = senderIn(now().state, sender);
    return found ? calledOf(found) : "";
  });
}

/** A piece of the microphone, where the process of feeds is reached. */
export function sendSound(piece: ArrayBuffer) {
  sendOn(socket, piece);
}

/** Whether the panel is shown. */
export function showFeed(shown: boolean) {
  set({ shown });
  if (!shown) endLive();
}

/** Asks for something: what happened, or a Problem. */
export function order(what: string, given: Record<string, unknown> = {}): Promise<string> {
  if (!reached()) return Promise.reject(new Problem(0, "the process of feeds is not reached"));
  const number = post(what, given);
  return new Promise((done, failed) => waiting.set(number, { done, failed }));
}

/** The same, with what went wrong told. */
export async function ask(what: string, given: Record<string, unknown> = {}): Promise<boolean> {
  try {
    await order(what, given);
    return true;
  } catch (error) {
    notify(error as Problem);
    return false;
  }
}
