// Files on their way in: uploaded, looked at, corrected, not yet part of anything.
import { create } from "zustand";
import { api, Problem, type FileIn, type Inspection } from "../../api/client";
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
  recipe?: Record<string, unknown>;
  problem?: Problem;
};
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
        change(key, { inspection: await api.inspect(production, { media, name: file.name }), state: "ready" });
      } catch (error) {
        change(key, { state: "bad", problem: asProblem(error) });
      }
    }),
  );
}

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

export const asFile = (item: Incoming): FileIn => ({
  media: item.media!,
  name: item.file,
  ...(item.recipe ? { recipe: item.recipe } : {}),
});

export function forget(keys: number[]) {
  set({ incoming: now().incoming.filter((i) => !keys.includes(i.key)) });
}
