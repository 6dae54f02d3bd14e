// Files on their way in: uploaded, looked at, corrected, not yet part of anything.
import { create } from "zustand";
import { api, Problem, type Inspection, type PartIn, type Schemas } from "../../api/client";
import { uploadFile } from "../../api/upload";

export type Incoming = {
  key: number;
  file: string;
  size: number;
  /** How much of it is on the server, 0..1. */
  share?: number;
  state: "sending" | "ready" | "bad";
  media?: string;
  inspection?: Inspection;
  /** The performers whose bodies it holds, where it is a glTF with an animated skeleton or holds several. */
  bodies?: FoundBody[];
  /** The one of them that it is to be the body of; without it is what the inspection says. */
  which?: number | null;
  recipe?: Record<string, unknown>;
  problem?: Problem;
};
export type FoundBody = Schemas["FoundBody"];
type State = { incoming: Incoming[] };

export const useImports = create<State>(() => ({ incoming: [] }));
const { setState: set, getState: now } = useImports;
let count = 0;

function change(key: number, by: Partial<Incoming>) {
  set((s) => ({ incoming: s.incoming.map((i) => (i.key === key ? { ...i, ...by } : i)) }));
}

const asProblem = (error: unknown) => (error instanceof Problem ? error : new Problem(0, String(error)));

/** Sends files and looks at each; a bad one does not stop the others. */
export async function bringIn(production: string, files: Iterable<File>) {
  await Promise.all(
    [...files].map(async (file) => {
      const key = ++count;
      set((s) => ({ incoming: [...s.incoming, { key, file: file.name, size: file.size, state: "sending" }] }));
      try {
        const media = await uploadFile(production, file, (share) => change(key, { share }));
        change(key, { media, share: 1 });
        change(key, await looked(production, { media, name: file.name }));
      } catch (error) {
        change(key, { state: "bad", problem: asProblem(error) });
      }
    }),
  );
}

/** What a file is. A glTF can be a body as well: one that shows nothing but a skeleton that moves is one. */
async function looked(production: string, file: { media: string; name: string }): Promise<Partial<Incoming>> {
  const holds = /\.(glb|gltf|zip|bvh)$/i.test(file.name);
  const bodies = holds ? await api.bodies(production, file).catch((): FoundBody[] => []) : [];
  try {
    const inspection = await api.inspect(production, file);
    const several = inspection.kind === "body" && bodies.length > 1;
    if (inspection.kind === "character" || several)
      return { inspection, bodies, which: several ? 0 : null, state: "ready" };
    return { inspection, state: "ready" };
  } catch (error) {
    const [body] = bodies;
    if (!body) throw error;
    const inspection = { kind: "body", format: "gltf", remembered: false, report: { ...body } };
    return { inspection, bodies, which: 0, state: "ready" };
  }
}

/** What of a take, or beside one, a file is to be. */
export const kindOf = (item: Incoming): string => (item.which == null ? item.inspection!.kind : "body");

/** Takes a file as the body of one of its performers; with null as what it is otherwise. */
export const takeAs = (key: number, which: number | null) => change(key, { which });

/** Looks again with a correction of the reading recipe. */
export async function correct(production: string, item: Incoming, by: Record<string, unknown>) {
  const columns = { ...(item.recipe?.columns as object | undefined), ...(by.columns as object | undefined) };
  const recipe = { ...item.recipe, ...by, ...(Object.keys(columns).length ? { columns } : {}) };
  change(item.key, { recipe });
  try {
    const inspection = await api.inspect(production, { media: item.media!, name: item.file, recipe });
    change(item.key, { inspection, state: "ready", problem: undefined });
  } catch (error) {
    change(item.key, { state: "bad", problem: asProblem(error) });
  }
}

export const asFile = (item: Incoming): PartIn => ({
  media: item.media!,
  name: item.file,
  ...(item.recipe ? { recipe: item.recipe } : {}),
  ...(item.which == null ? {} : { part: "body" as const, which: item.which }),
});

export function forget(keys: number[]) {
  set({ incoming: now().incoming.filter((i) => !keys.includes(i.key)) });
}
