// Small pictures of a clip's faces, taken from its proxy one after the other.
import { SeenPoints, type Face } from "../../viewer/seenPoints";

export const SIZE = 84;

/** The square about the face in a frame, in pixels of the picture: from the landmarks, or the middle without them. */
export function faceSquare(face: Face | null, width: number, height: number): { x: number; y: number; side: number } {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let n = 0; face && n < face.length; n += 2) {
    const [x, y] = [face[n]!, face[n + 1]!];
    if (x !== x) break;
    [left, right, top, bottom] = [Math.min(left, x), Math.max(right, x), Math.min(top, y), Math.max(bottom, y)];
  }
  if (left > right) [left, right, top, bottom] = [0, width, 0, height];
  const side = Math.min(Math.max(right - left, bottom - top) * 1.1, Math.min(width, height));
  const held = (middle: number, most: number) => Math.min(Math.max(middle - side / 2, 0), most - side);
  return { x: held((left + right) / 2, width), y: held((top + bottom) / 2, height), side };
}

type Clip = { source: string; frames: number; rate: number; width: number; height: number };

/** Takes pictures of frames; what was taken once is kept while the clip stays the same. */
export class Pictures {
  private readonly film = document.createElement("video");
  private readonly kept = new Map<number, HTMLCanvasElement>();
  private readonly points: SeenPoints;
  private queue: Promise<void> = Promise.resolve();

  constructor(private readonly clip: Clip) {
    this.points = new SeenPoints(clip.source, clip.frames);
    this.film.src = `/api/sources/${clip.source}/proxy`;
    this.film.muted = true;
    this.film.preload = "auto";
  }

  /** Draws the face of a frame into a canvas as soon as its turn comes. */
  show(frame: number, into: HTMLCanvasElement) {
    this.queue = this.queue
      .then(async () => {
        if (!into.isConnected) return;
        const made = this.kept.get(frame) ?? (await this.take(frame));
        into.getContext("2d")!.drawImage(made, 0, 0);
        into.dataset.frame = String(frame);
      })
      .catch(() => undefined);
  }

  private async take(frame: number): Promise<HTMLCanvasElement> {
    const { rate, width, height } = this.clip;
    const face = await this.points.load(frame);
    await new Promise<void>((done, failed) => {
      this.film.onseeked = () => done();
      this.film.onerror = () => failed(new Error("the proxy cannot be shown"));
      this.film.currentTime = (frame + 0.5) / rate;
    });
    const made = document.createElement("canvas");
    made.width = made.height = SIZE * 2;
    const { x, y, side } = faceSquare(face, width, height);
    const scale = this.film.videoHeight / height;
    made
      .getContext("2d")!
      .drawImage(this.film, x * scale, y * scale, side * scale, side * scale, 0, 0, SIZE * 2, SIZE * 2);
    this.kept.set(frame, made);
    return made;
  }

  end() {
    this.film.removeAttribute("src");
    this.film.load();
  }
}
