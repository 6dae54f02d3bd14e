// A small picture of a role's face as the stage shows it now.
import type { Body } from "../workspace/workspace";
import type { StageScene } from "./stageScene";

const SIZE = 96;
let stage: StageScene | null = null;
let redraw: () => void = () => undefined;

/** The stage that pictures are taken of, and how it is drawn again; null when it is gone. */
export const setStage = (next: StageScene | null, again: () => void = () => undefined) => {
  [stage, redraw] = [next, again];
};

/** The face of a role as a data URL, as it stands or at a frame of how it moves; "" where the stage does not show it. */
export function pictureOf(role: string, at?: { body: Body; frame: number }): string {
  const place = stage?.pictureOf(role, at);
  if (!place) return "";
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = SIZE;
  canvas.getContext("2d")!.drawImage(place.canvas, place.x, place.y, place.size, place.size, 0, 0, SIZE, SIZE);
  if (at) redraw();
  return canvas.toDataURL("image/webp", 0.8);
}
