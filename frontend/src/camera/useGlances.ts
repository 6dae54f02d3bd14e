import { useEffect, useState, type RefObject } from "react";
import { api } from "../api/client";
import { colourOf } from "../shared/regions";
import { drawPoints, placed } from "../viewer/footage";
import { showLive, type Driven } from "../viewer/live";

const WIDTH = 480;

/** Looks at the live picture again and again: draws the tracked points over it and gives what to change. */
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
    let gone = false;
    let timer = 0;
    const sheet = document.createElement("canvas");
    const look = async () => {
      const film = video.current;
      if (gone) return;
      if (film && film.videoWidth > 0) {
        sheet.width = WIDTH;
        sheet.height = Math.round((WIDTH * film.videoHeight) / film.videoWidth);
        sheet.getContext("2d")!.drawImage(film, 0, 0, sheet.width, sheet.height);
        const picture = await new Promise<Blob | null>((done) => sheet.toBlob(done, "image/jpeg", 0.8));
        const found = picture && !gone ? await api.glance(production, picture).catch(() => null) : null;
        if (!gone && found) {
          setWords(found.words);
          showLive({
            on: true,
            calms: true,
            weights: found.scores,
            pose: found.pose,
            driven: (found.driven ?? null) as Driven | null,
            width: sheet.width,
            height: sheet.height,
          });
          draw(marks.current, found.points as [number, number][], sheet.width, sheet.height);
        }
      }
      // The next look comes when this one is answered: a slow server is not asked faster.
      if (!gone) timer = window.setTimeout(() => void look(), 60);
    };
    void look();
    return () => {
      gone = true;
      window.clearTimeout(timer);
      showLive({ on: false, weights: [], driven: null });
    };
  }, [production, on, video, marks]);
  return words;
}

function draw(canvas: HTMLCanvasElement | null, points: [number, number][], width: number, height: number) {
  if (!canvas) return;
  const box = canvas.getBoundingClientRect();
  canvas.width = box.width;
  canvas.height = box.height;
  if (!points.length) return;
  const data = Float32Array.from(points.flatMap(([x, y]) => [x * width, y * height]));
  drawPoints(
    canvas.getContext("2d")!,
    { data, shape: [1, points.length, 2] },
    0,
    placed(width, height, box.width, box.height),
    (region) => colourOf(region, false),
  );
}
