// A small picture of a role's face as the stage shows it now.
import type { StageScene } from "./stageScene";

const SIZE = 96;
let stage: StageScene | null = null;

/** The stage that pictures are taken of; null when it is gone. */
export const setStage = (next: StageScene | null) => {
  stage = next;
};

/** The face of a role as a data URL; "" where the stage does not show it. */
export function pictureOf(role: string): string {
  const place = stage?.pictureOf(role);
  if (!place) return "";
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = SIZE;
  canvas.getContext("2d")!.drawImage(place.canvas, place.x, place.y, place.size, place.size, 0, 0, SIZE, SIZE);
  return canvas.toDataURL("image/webp", 0.8);
}
