// Landmarks of footage, fetched by window as the playhead comes to them: those of a long clip are never in the page at once.
import { api } from "../api/client";

/** x and y of a frame's landmarks in pixels of the picture; NaN where no face was seen. */
export type Face = Float32Array;

const WINDOW = 512; // frames that are fetched at once
const KEPT = 8; // windows

type Window = { faces: Face[]; coming: Promise<Face[]> };

export class SeenPoints {
  private readonly windows = new Map<number, Window>();

  private readonly listeners = new Set<() => void>();

  /** frames: of the clip. */
  constructor(
    private readonly source: string,
    private readonly frames: number,
  ) {}

  /** Calls when a window has come, until what is given back is called. */
  onArrive(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** The face in a frame, or in the nearest one that the clip has; null until it has come. */
  at(frame: number): Face | null {
    const held = this.held(frame);
    const ahead = Math.min(held + WINDOW / 2, this.frames - 1);
    if (ahead > held) this.window(ahead);
    return this.window(held).faces[held % WINDOW] ?? null;
  }

  /** The same, once it has come; null where it can't be had. */
  async load(frame: number): Promise<Face | null> {
    const held = this.held(frame);
    return (await this.window(held).coming)[held % WINDOW] ?? null;
  }

  private readonly held = (frame: number) => Math.min(Math.max(frame, 0), this.frames - 1);

  private window(frame: number): Window {
    const number = Math.floor(frame / WINDOW);
    const found = this.windows.get(number) ?? this.fetched(number);
    // Those that were asked for last stand at the end.
    this.windows.delete(number);
    this.windows.set(number, found);
    if (this.windows.size > KEPT) this.windows.delete(this.windows.keys().next().value!);
    return found;
  }

  private fetched(number: number): Window {
    const first = number * WINDOW;
    const last = Math.min(first + WINDOW, this.frames) - 1;
    const made: Window = { faces: [], coming: Promise.resolve([]) };
    made.coming = api.points(this.source, first, last).then(
      ({ arrays }) => {
        const { data, shape } = arrays.points!;
        const size = shape[1]! * shape[2]!;
        made.faces = Array.from({ length: shape[0]! }, (_, n) => data.subarray(n * size, (n + 1) * size) as Face);
        this.listeners.forEach((f) => f());
        return made.faces;
      },
      () => [], // nothing is drawn there; what is wrong with the footage is said where its job is
    );
    return made;
  }
}
