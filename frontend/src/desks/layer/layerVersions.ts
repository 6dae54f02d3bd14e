// Versions of a layer that are kept beside the one that counts, and taking back what one of them said. Pure.
import { pathOf } from "../../api/changes";
import type { Change, LayerDoc } from "../../api/client";

type Body = LayerDoc["body"];
export type Kept = Body["kept"][string];
/** What a version is made of; order, name and switches stay with the layer. */
const SAYS = ["does", "regions", "weight", "keys", "spans", "makers"] as const;

function asKept(body: Body, name: string): Kept {
  const { does, regions, weight, keys, spans, makers } = body;
  return { name, does, regions, weight, keys, spans, makers, mute: false, solo: false, locked: false };
}

/** A name that no kept version has. */
export function freshName(body: Body): string {
  const names = Object.values(body.kept).map((k) => k.name);
  for (let n = names.length + 1; ; n++) if (!names.includes(`version ${n}`)) return `version ${n}`;
}

/** What the layer says now is kept. */
export const keepVersion = (body: Body, key: string): Change[] => [
  { path: pathOf("kept", key), value: asKept(body, freshName(body)) },
];

/** A kept version counts, and what counted is kept in its place under its name. */
export function swapVersion(body: Body, key: string): Change[] {
  const kept = body.kept[key]!;
  return [
    ...SAYS.map((field) => ({ path: field as string, value: kept[field] })),
    { path: pathOf("kept", key), value: asKept(body, kept.name) },
  ];
}

/** What a kept version says, only to be looked at. */
export const lookAt = (body: Body, key: string): Change[] =>
  SAYS.map((field) => ({ path: field as string, value: body.kept[key]![field] }));

/** Channels whose keys become those of a kept version. */
export function channelsAsIn(body: Body, key: string, channels: string[]): Change[] {
  const kept = body.kept[key]!.keys;
  return channels.flatMap((c) => {
    if (JSON.stringify(kept[c]) === JSON.stringify(body.keys[c])) return [];
    return [kept[c] ? { path: pathOf("keys", c), value: kept[c] } : { path: pathOf("keys", c), remove: true }];
  });
}

/** A span becomes what it was in a kept version that has it otherwise; the newest of them, null where there is none. */
export function spanAsItWas(body: Body, span: string): Change[] | null {
  const now = JSON.stringify(body.spans[span]);
  const kept = Object.values(body.kept).filter((k) => k.spans[span] && JSON.stringify(k.spans[span]) !== now);
  const last = kept[kept.length - 1];
  return last ? [{ path: pathOf("spans", span), value: last.spans[span] }] : null;
}
