// What is handed over and how, as the drawer shows and changes it. Pure.
import type { HandoverSettings, PresetEntry } from "../api/client";

export type Subject = "take" | "role" | "shot" | "circled" | "chosen";
export type Options = HandoverSettings["options"];
export type Span = { from: number; to: number };

/** Options as they are when nothing is asked for. */
export const PLAIN: Options = {
  rate: "",
  first: null,
  last: null,
  handles: 0,
  head: true,
  travel: true,
  prefix: "",
  prefixing: "add",
  tolerance: 0,
  rest: false,
  neutral: false,
};

/** What the drawer begins with; in a shot its sound goes along. */
export const beginning = (shot: boolean): HandoverSettings => ({
  forms: shot ? { gltf: {}, "curve table": {}, sound: {} } : { gltf: {}, "curve table": {} },
  options: PLAIN,
  pattern: "{name}",
});

/** What can be handed over from where one is. */
export function subjectsFor(open: "take" | "shot" | null, role: string): Partial<Record<Subject, string>> {
  const many = { circled: "all circled takes", chosen: "takes and shots that I choose" };
  if (open === "shot") return { role: `this role: ${role}`, shot: "all roles of the shot", ...many };
  return open === "take" ? { take: "this take", ...many } : many;
}

/** With a form switched on or off; what it was set to is kept while it is on. */
export function withForm(settings: HandoverSettings, form: string, on: boolean): HandoverSettings {
  const { [form]: was, ...others } = settings.forms;
  return { ...settings, forms: on ? { ...others, [form]: was ?? {} } : others };
}

/** With other settings of a form that is on. */
export const withSettings = (settings: HandoverSettings, form: string, own: Record<string, number | string>) => ({
  ...settings,
  forms: { ...settings.forms, [form]: own },
});

/** A preset as settings: what it does not say is as when nothing is asked for. A range is not part of one. */
export const ofPreset = (preset: PresetEntry, range: Pick<Options, "first" | "last"> = PLAIN): HandoverSettings => ({
  forms: preset.forms,
  options: { ...PLAIN, ...preset.options, first: range.first, last: range.last },
  pattern: preset.pattern,
});

/** Settings as they are kept by name. */
export const asPreset = (settings: HandoverSettings): HandoverSettings => ({
  ...settings,
  options: withRange(settings.options, null),
});

/** The name of the preset that the settings are, or "". */
export function presetOf(settings: HandoverSettings, presets: Record<string, PresetEntry>): string {
  const plain = (s: HandoverSettings) => JSON.stringify([sorted(s.forms), sorted(s.options), s.pattern]);
  const own = plain(asPreset(settings));
  return Object.keys(presets).find((name) => plain(ofPreset(presets[name]!)) === own) ?? "";
}

function sorted(table: object): unknown {
  return Object.entries(table)
    .map(([k, v]): [string, unknown] => [k, v && typeof v === "object" ? sorted(v as object) : v])
    .sort(([a], [b]) => (a < b ? -1 : 1));
}

/** With the frames of a marked range, or all of them. */
export const withRange = (options: Options, range: Span | null): Options => ({
  ...options,
  first: range ? Math.round(range.from) : null,
  last: range ? Math.round(range.to) : null,
});

/** Why it cannot be begun, or "". */
export function missing(settings: HandoverSettings, subject: Subject, count: number): string {
  if (!Object.keys(settings.forms).length) return "Choose at least one file";
  if (subject === "circled" && !count) return "No take is circled";
  if (subject === "chosen" && !count) return "Choose takes or shots below";
  return "";
}

/** How many options are not as when nothing is asked for. */
export const changedOptions = (options: Options): number =>
  (Object.keys(PLAIN) as (keyof Options)[]).filter(
    (k) => options[k] !== PLAIN[k] && !(k === "last" || k === "prefixing"),
  ).length;

/** A size in words. */
export const sizeOf = (bytes: number): string =>
  bytes < 1e5 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

export type Checked = { what: string; ok: boolean | null; found: string };

/** Of many checks those that a person has to see: what is wrong or remarkable first, then the first that came off. */
export function telling(checks: Checked[], most = 8): Checked[] {
  if (checks.length <= most) return checks;
  const told = checks.filter((c) => !c.ok);
  const kept = new Set([...told, ...checks.filter((c) => c.ok)].slice(0, Math.max(most, told.length)));
  return checks.filter((c) => kept.has(c));
}
