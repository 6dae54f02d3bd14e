// What the process of feeds says, and what a page makes of it. Pure.

/** A value of a sender: its name there, the channel that it is read as ("" for none), now, lowest, highest. */
export type Signal = [name: string, channel: string, value: number, low: number, high: number];
export type SenderState = {
  sender: number;
  host: string;
  how: string;
  called: string;
  performer: string;
  rate: number;
  age: number | null;
  lost: number;
  begun: number;
  packets: number;
  joints: string[];
  /** What its body hangs on: its own "skeleton", the "names" of its joints, or "nothing" that is known; "" where nobody looked yet. */
  hangs: string;
  kept: boolean;
  percent: boolean;
  radians: boolean;
  flipped: string[];
  signals: Signal[];
};
export type OutState = {
  host: string;
  port: number;
  rate: number;
  changes: boolean;
  pattern: string;
  names: Record<string, string>;
  performer: string;
  of: "live" | "timeline" | "both";
  sent: number;
  trouble: string;
};
export type FeedState = {
  elsewhere: number;
  refusals: number;
  refused: string[];
  senders: SenderState[];
  slate: string;
  number: number;
  count: { what: string; left: number } | null;
  recording: { seconds: number; packets: number } | null;
  keeping: number;
  /** The count that the microphone carries. */
  timecode: { label: string; rate: string } | null;
  outs: OutState[];
  said: string[];
  /** How many things were said so far. */
  told: number;
  made: string[];
};
export type Hello = { trouble: string; port: number; addresses: { host: string; code: string }[]; alone: boolean };
/** What stays the same from frame to frame of a character. */
export type Described = {
  sender: number;
  source: string;
  targets: string[];
  still: [string, string][];
  joints: string[];
  shifted: string[];
};
export type Frame = {
  sender: number;
  number: number;
  heard: number;
  weights: Float32Array;
  motion: Float32Array;
  shifts: Float32Array;
};

const HEAD = 16;
export const SILENT = 1; // seconds after which a sender counts as silent

/** Whose a frame is. */
export const senderOf = (raw: ArrayBuffer): number =>
  raw.byteLength >= HEAD ? new DataView(raw).getUint32(0, true) : -1;

/** Senders whose characters are shown, that of the panel first. */
export const watchedOf = (s: { watched: number | null; beside: number[] }): number[] =>
  s.watched === null ? [] : [s.watched, ...s.beside];

/** A frame as `live/wire.py` packs it; null where it is not one of the character that was described. */
export function readFrame(raw: ArrayBuffer, channels: number, of: Described): Frame | null {
  const view = new DataView(raw);
  const [targets, joints, shifted] = [of.targets.length, of.joints.length * 4, of.shifted.length * 3];
  if (raw.byteLength !== HEAD + 4 * (channels + targets + joints + shifted)) return null;
  const sender = view.getUint32(0, true);
  if (sender !== of.sender) return null;
  const numbers = new Float32Array(raw, HEAD);
  const from = (start: number, length: number) => numbers.subarray(start, start + length);
  return {
    sender,
    number: view.getUint32(4, true),
    heard: view.getFloat64(8, true),
    weights: from(channels, targets),
    motion: from(channels + targets, joints),
    shifts: from(channels + targets + joints, shifted),
  };
}

/** One of those that are heard. */
export const senderIn = (state: FeedState | null, number: number | null): SenderState | undefined =>
  state?.senders.find((s) => s.sender === number);

/** Whether a sender sends now. */
export const sends = (s: Pick<SenderState, "age">): boolean => s.age !== null && s.age < SILENT;

/** What a sender is called. */
export const calledOf = (s: Pick<SenderState, "performer" | "called" | "host">): string =>
  s.performer || s.called || s.host;

/** How a sender arrives, in words. */
export function arrivalOf(s: SenderState): string {
  if (s.age === null) return "nothing yet";
  const lost = s.lost ? `, ${s.lost} lost in the last minute` : "";
  if (!sends(s)) return `silent for ${s.age < 60 ? `${s.age.toFixed(0)} s` : `${(s.age / 60).toFixed(0)} min`}${lost}`;
  return `${s.rate.toFixed(0)} a second${lost}`;
}

/** How many of a sender's values are read. */
export const readOf = (s: SenderState | undefined): number => s?.signals.filter((signal) => signal[1]).length ?? 0;

/** A value of a sender, by its name there. */
export const signalIn = (s: SenderState | undefined, name: string): Signal | undefined =>
  s?.signals.find(([called]) => called === name);

/** Whether a sender brings values of a face, or nothing yet. */
export const bringsValues = (s: SenderState | undefined): boolean => !!s && (s.signals.length > 0 || !s.joints.length);

/** What arrives of a sender, in words. */
export function broughtOf(s: SenderState): string {
  const values = s.signals.length || !s.joints.length ? `${readOf(s)} of ${s.signals.length}` : "";
  return [values, s.joints.length ? `${s.joints.length} joints` : ""].filter(Boolean).join(" · ");
}

/** What to look at where something is not as it should be; "" where all is well. */
export function adviceOf(hello: Hello | null, state: FeedState | null): string {
  if (!hello || !state) return "";
  if (hello.trouble) return `${hello.trouble}. Another program may listen there: close it, or set DYNAFACE_FEED_PORT.`;
  if (!state.senders.length) {
    if (state.elsewhere) return "What is heard belongs to another production whose feed is open.";
    if (state.refusals) return `Something arrives that is not understood. The last: ${state.refused.at(-1) ?? ""}`;
    if (hello.alone)
      return "Only programs on this machine are heard. To hear phones, start Dynaface with DYNAFACE_FEED_HOST=0.0.0.0.";
    return "Nothing arrives. Are both in the same network, and does the sender have this address and port?";
  }
  const unread = state.senders.find((s) => sends(s) && !readOf(s) && !s.joints.length);
  const hanging = state.senders.find((s) => sends(s) && s.hangs === "nothing");
  if (hanging)
    return `The joints of ${calledOf(hanging)} have no names of a body, and its sender does not say what they hang on.`;
  if (unread)
    return `${calledOf(unread)} sends ${unread.signals.length} values, none of which is known. Say below what they are.`;
  return "";
}

/** The factor by which a shape is multiplied, as `core/feed/profile.py` has it. */
export function gainOf(neutral: number | undefined, extreme: number | undefined): number {
  return 1 / Math.max((extreme ?? 1) - (neutral ?? 0), 0.05);
}

/** Whether anything is running that the top line should say, and how. */
export function runningOf(state: FeedState | null): { words: string; recording: boolean } | null {
  if (!state) return null;
  if (state.recording) return { words: `Recording ${clock(state.recording.seconds)}`, recording: true };
  if (state.count?.what === "record") return { words: `Records in ${Math.ceil(state.count.left)}`, recording: true };
  const now = state.senders.filter(sends);
  if (!now.length && !state.outs.length) return null;
  const names = now.length > 1 ? `${now.length} performers` : now.length ? calledOf(now[0]!) : "";
  return { words: ["Live", names, state.outs.length ? "sent on" : ""].filter(Boolean).join(" · "), recording: false };
}

/** Minutes and seconds. */
export const clock = (seconds: number): string =>
  `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

/** The name of the next recording. */
export const nextOf = (state: Pick<FeedState, "slate" | "number">): string =>
  `${state.slate}_${String(state.number).padStart(2, "0")}`;

/** The signals that a text or "only what is not read" leaves. */
export function filtered(signals: Signal[], text: string, unread: boolean): Signal[] {
  const wanted = text.trim().toLowerCase();
  return signals.filter(
    ([name, channel]) => (!unread || !channel) && (!wanted || `${name} ${channel}`.toLowerCase().includes(wanted)),
  );
}

/** How far a value is through its range: where it is read as a weight that is 0 to 1. */
export function shareOf([, channel, value, low, high]: Signal, percent: boolean): number {
  const weight = channel && !/^(head|gaze)/.test(channel);
  const [from, to] = weight ? [0, percent ? 100 : 1] : [Math.min(low, 0), Math.max(high, 1e-6)];
  return Math.min(Math.max((value - from) / (to - from || 1), 0), 1);
}

/** Channels of the face, head and gaze that go out of a frame of curves; what is not known is left out. */
export function rowOf(
  curves: { channels: string[]; frames: number; tidied: { data: ArrayLike<number> } },
  frame: number,
) {
  const width = curves.channels.length;
  const at = Math.min(Math.max(frame, 0), curves.frames - 1) * width;
  const values: Record<string, number> = {};
  curves.channels.forEach((channel, i) => {
    const value = curves.tidied.data[at + i]!;
    if (Number.isFinite(value) && !channel.startsWith("distance")) values[channel] = value;
  });
  return values;
}
