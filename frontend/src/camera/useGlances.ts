import { useEffect, useState, type RefObject } from "react";
import { AGAIN, feedSocket, isRefusal, sendOn } from "../api/feedSocket";
import { notify } from "../shared/notices";
import { colourOf } from "../shared/regions";
import { drawPoints, placed } from "../viewer/footage";
import { endLive, showLive, type Driven } from "../viewer/live";

const WIDTH = 480;

/** What was seen in a picture, or why nothing was. */
type Seen = {
  number: number;
  points: [number, number][];
  words: string[];
  scores: number[];
  pose: number[];
  driven: Omit<Driven, "of" | "called"> | null;
  message?: string;
};

/** A picture as it is sent: its number, then the JPEG. Pure. */
export function numbered(number: number, jpeg: ArrayBuffer): Uint8Array<ArrayBuffer> {
  const made = new Uint8Array(4 + jpeg.byteLength);
  new DataView(made.buffer).setUint32(0, number, true);
  made.set(new Uint8Array(jpeg), 4);
  return made;
}

/** Looks at the live picture again and again: draws each picture with the points that were found in it, and gives what to change. */
export function useGlances(
  production: string,
  on: boolean,
  video: RefObject<HTMLVideoElement | null>,
  marks: RefObject<HTMLCanvasElement | null>,
): string[] {
  const [words, setWords] = useState<string[]>([]);
  useEffect(() => {
    if (!on) {
      marks.current?.getContext("2d")?.clearRect(0, 0, marks.current.width, marks.current.height);
      return;
    }
    const eyes = new Eyes(production, video, (seen, sheet) => {
      setWords(seen.words);
      showLive({
        on: true,
        calms: true,
        weights: seen.scores,
        pose: seen.pose,
        driven: seen.driven ? [{ ...seen.driven, of: "", called: "" }] : [],
        width: sheet.width,
        height: sheet.height,
      });
      draw(marks.current, sheet, seen.points);
    });
    return () => {
      eyes.close();
      endLive();
    };
  }, [production, on, video, marks]);
  return words;
}

/** Sends pictures of a video, the next when the one before it was looked at, so that a slow server is not asked faster. */
class Eyes {
  private readonly sheet = document.createElement("canvas");
  private socket: WebSocket | null = null;
  private number = 0;
  private timer = 0;
  private gone = false;

  constructor(
    private readonly production: string,
    private readonly video: RefObject<HTMLVideoElement | null>,
    private readonly show: (seen: Seen, sheet: HTMLCanvasElement) => void,
  ) {
    void this.connect();
  }

  close() {
    this.gone = true;
    window.clearTimeout(this.timer);
    this.socket?.close();
  }

  private async connect() {
    try {
      const socket = await feedSocket(this.production, "camera");
      if (this.gone) return socket.close();
      this.socket = socket;
      socket.onopen = () => void this.look();
      socket.onmessage = (event: MessageEvent<string>) => this.seen(JSON.parse(event.data) as Seen);
      socket.onclose = () => this.later(() => void this.connect(), AGAIN);
    } catch (error) {
      if (isRefusal(error)) notify(error);
      else this.later(() => void this.connect(), AGAIN);
    }
  }

  private later(what: () => void, wait: number) {
    if (!this.gone) this.timer = window.setTimeout(what, wait);
  }

  private async look() {
    const film = this.video.current;
    if (this.gone) return;
    if (!film || film.videoWidth === 0) return this.later(() => void this.look(), 40);
    const { sheet } = this;
    sheet.width = WIDTH;
    sheet.height = Math.round((WIDTH * film.videoHeight) / film.videoWidth);
    // Pictures are read back each time: a canvas that lies with the graphics card would make each a long way.
    sheet.getContext("2d", { willReadFrequently: true })!.drawImage(film, 0, 0, sheet.width, sheet.height);
    const picture = await new Promise<Blob | null>((done) => sheet.toBlob(done, "image/jpeg", 0.8));
    if (this.gone || !picture) return;
    // The camera may have been left while the bytes were read.
    sendOn(this.socket, numbered(++this.number, await picture.arrayBuffer()));
  }

  private seen(seen: Seen) {
    if (this.gone) return;
    if (seen.message) {
      notify({ kind: "info", message: seen.message });
      this.later(() => void this.look(), AGAIN);
      return;
    }
    if (seen.number === this.number) this.show(seen, this.sheet);
    void this.look();
  }
}

/** The picture that was looked at, with its points: what lies on the face is from the same moment as the face. */
function draw(canvas: HTMLCanvasElement | null, sheet: HTMLCanvasElement, points: [number, number][]) {
  if (!canvas) return;
  const box = canvas.getBoundingClientRect();
  canvas.width = box.width;
  canvas.height = box.height;
  const at = placed(sheet.width, sheet.height, box.width, box.height);
  const pen = canvas.getContext("2d")!;
  pen.drawImage(sheet, at.left, at.top, sheet.width * at.scale, sheet.height * at.scale);
  if (!points.length) return;
  const data = Float32Array.from(points.flatMap(([x, y]) => [x * sheet.width, y * sheet.height]));
  drawPoints(pen, data, at, (region) => colourOf(region, false));
}
