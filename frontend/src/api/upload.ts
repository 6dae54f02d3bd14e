// Large files in pieces: a broken connection is waited out, and a page that was closed goes on with the same file.
import { api, Problem } from "./client";

const PIECE = 8 << 20;
const TRIES = 6;
const wait = (milliseconds: number) => new Promise((done) => window.setTimeout(done, milliseconds));

/** What tells that a file is the one of which a part was sent before. */
export const uploadKey = (production: string, file: { name: string; size: number; lastModified: number }) =>
  `dynaface.upload:${production}:${file.name}:${file.size}:${file.lastModified}`;

/** Sends a file and gives its medium; `onShare` hears the share that is there, 0..1. */
export async function uploadFile(production: string, file: File, onShare: (share: number) => void): Promise<string> {
  if (file.size <= PIECE) return (await api.upload(production, file)).media;
  const key = uploadKey(production, file);
  let state = await resumed(key);
  if (!state) {
    state = await api.beginUpload(production, file.size);
    localStorage.setItem(key, state.upload);
  }
  try {
    for (let failed = 0; !state.media;) {
      onShare(state.received / file.size);
      try {
        state = await api.piece(state.upload, state.received, file.slice(state.received, state.received + PIECE));
        failed = 0;
      } catch (error) {
        // No answer: what was lost may have arrived all the same. The server says where to go on.
        if (!(error instanceof Problem) || error.status !== 0 || ++failed > TRIES) throw error;
        await wait(500 * 2 ** failed);
        state = (await resumed(key)) ?? state;
      }
    }
  } catch (error) {
    if (error instanceof Problem && error.status !== 0) localStorage.removeItem(key);
    throw error;
  }
  localStorage.removeItem(key);
  return state.media;
}

async function resumed(key: string) {
  const upload = localStorage.getItem(key);
  if (!upload) return null;
  try {
    return await api.uploading(upload);
  } catch (error) {
    if (error instanceof Problem && error.status === 404) localStorage.removeItem(key);
    return null;
  }
}
