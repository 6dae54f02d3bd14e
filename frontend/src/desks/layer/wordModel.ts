// The words that a role says, laid at the frames of the shot, and what dragging one changes. Pure.
import type { Change } from "../../api/client";
import { pathOf } from "../../api/changes";
import { framesOf, toNumber } from "../../shared/seconds";
import type { Block, Hold } from "../../timekit/tracks/blocks";
import type { ShotState } from "../../workspace/state";

export type WordsDoc = ShotState["opened"]["words"][number];
export type WordEntry = WordsDoc["body"]["words"][string];
/** A word where it is heard. from, to: frames of the shot; perFrame: seconds of its sound a frame of the shot. */
export type Said = {
  key: string;
  document: string;
  word: string;
  entry: WordEntry;
  from: number;
  to: number;
  perFrame: number;
};
/** A stretch of a sound that is heard: frames of the shot at which it begins, seconds of the sound, speed. */
type Heard = { sound: string; start: number; first: number; last: number; speed: number };

/** What is heard of a role: the sounds of its clips pass by pass, and sounds that were let go from it. */
export function heardOf(shot: ShotState, role: string): Heard[] {
  const { roles, rate, sounds } = shot.opened.shot.body;
  const out: Heard[] = [];
  for (const p of Object.values(roles[role]?.placements ?? {})) {
    const clip = shot.opened.clips.find((c) => c.id === p.clip);
    if (!clip?.sound || !p.sound || p.mute) continue;
    const [first, last, speed] = [toNumber(p.first), toNumber(p.last), toNumber(p.speed)];
    const stretch = ((last - first) / speed) * framesOf("1", rate);
    let left = toNumber(p.repeats);
    for (let start = framesOf(p.start, rate); left > 1e-9; start += stretch, left -= 1) {
      const end = first + (last - first) * Math.min(left, 1);
      out.push({ sound: clip.sound, start, first: first - clip.soundOffset, last: end - clip.soundOffset, speed });
    }
  }
  for (const s of Object.values(sounds))
    if (s.role === role && !s.mute)
      out.push({
        sound: s.source,
        start: framesOf(s.start, rate),
        first: toNumber(s.first),
        last: toNumber(s.last),
        speed: toNumber(s.speed),
      });
  return out;
}

/** The words of a role in their order; a word belongs to the stretch in which its middle is heard. */
export function wordsOf(shot: ShotState, role: string): Said[] {
  const out: Said[] = [];
  const fps = framesOf("1", shot.opened.shot.body.rate);
  heardOf(shot, role).forEach((heard, pass) => {
    const words = shot.opened.words.find((w) => w.body.sound === heard.sound);
    const at = (seconds: number) => heard.start + ((seconds - heard.first) / heard.speed) * fps;
    for (const [word, entry] of Object.entries(words?.body.words ?? {})) {
      const middle = (entry.first + entry.last) / 2;
      if (middle < heard.first || middle >= heard.last) continue;
      const key = `${words!.id} ${word} ${pass}`;
      const [from, to] = [at(entry.first), at(entry.last)];
      out.push({ key, document: words!.id, word, entry, from, to, perFrame: heard.speed / fps });
    }
  });
  return out.sort((a, b) => a.from - b.from);
}

export const wordBlocks = (said: Said[], chosen: string | null): Block[] =>
  said.map((w) => ({
    key: w.key,
    lane: 0,
    from: w.from,
    to: w.to,
    label: w.entry.word,
    note: w.entry.lips === 1 && w.entry.jaw === 1 ? "" : `lips ${w.entry.lips} jaw ${w.entry.jaw}`,
    chosen: w.key === chosen,
    mute: false,
    fadeIn: 0,
    fadeOut: 0,
    passes: w.entry.phones.slice(0, -1).map(([, share]) => w.from + share * (w.to - w.from)),
  }));

type PhoneEntry = WordEntry["phones"][number];
/** How much lips and jaw count in a phone. */
export const weightsOf = (phone: PhoneEntry): [lips: number, jaw: number] => [phone[2] ?? 1, phone[3] ?? 1];

/** The change that gives one phone of a word another weight; a phone that counts whole is stored without. */
export function phoneWeighed(said: Said, at: number, part: "lips" | "jaw", value: number): Change[] {
  const phones = said.entry.phones.map((phone, i) => {
    if (i !== at) return phone;
    const [lips, jaw] = weightsOf(phone);
    const next = part === "lips" ? [value, jaw] : [lips, value];
    return next[0] === 1 && next[1] === 1 ? [phone[0], phone[1]] : [phone[0], phone[1], ...next];
  });
  return [{ path: pathOf("words", said.word, "phones"), value: phones }];
}

const LEAST = 0.02; // seconds that a word lasts

/** What dragging a word or one of its edges changes. */
export function wordDragged(said: Said, hold: Hold, by: number): Change[] {
  const seconds = by * said.perFrame;
  const { first, last } = said.entry;
  const path = (field: string) => pathOf("words", said.word, field);
  const to = (value: number) => Math.round(value * 1e4) / 1e4;
  const begins = {
    path: path("first"),
    value: to(hold === "begin" ? Math.min(first + seconds, last - LEAST) : first + seconds),
  };
  const ends = {
    path: path("last"),
    value: to(hold === "end" ? Math.max(last + seconds, first + LEAST) : last + seconds),
  };
  return hold === "move" ? [begins, ends] : hold === "begin" ? [begins] : [ends];
}

/** The takes whose sounds a role speaks, each once, in the order in which they are heard. */
export function takesOf(shot: ShotState, role: string): { take: string; slate: string; sound: string }[] {
  const { roles } = shot.opened.shot.body;
  const clips = Object.values(roles[role]?.placements ?? {})
    .sort((a, b) => toNumber(a.start) - toNumber(b.start))
    .map((p) => shot.opened.clips.find((c) => c.id === p.clip));
  const out: { take: string; slate: string; sound: string }[] = [];
  for (const clip of clips)
    if (clip?.sound && !out.some((t) => t.take === clip.take))
      out.push({ take: clip.take, slate: clip.slate, sound: clip.sound });
  return out;
}
