// Small pictures of a character in given poses, drawn out of sight.
import { api } from "../api/client";
import { CharacterScene } from "./scene";

export const PICTURE = { width: 150, height: 140 };
type Pose = (scene: CharacterScene) => void;

/** A picture for each pose, as it is ready; null where this browser draws no 3D. Stops when `gone` says so. */
export async function takePictures(
  source: string,
  poses: Pose[],
  ready: (index: number, picture: string) => void,
  gone: () => boolean,
): Promise<void> {
  const canvas = document.createElement("canvas");
  document.createElement("div").append(canvas);
  let scene: CharacterScene;
  try {
    scene = new CharacterScene(canvas);
  } catch {
    return;
  }
  try {
    const raw = await api.media(source);
    if (gone()) return;
    await scene.load(raw);
    scene.setTheme();
    scene.resize(PICTURE.width, PICTURE.height);
    for (const [index, pose] of poses.entries()) {
      if (gone()) return;
      scene.pose(null, 0, {});
      pose(scene);
      scene.frame("face");
      scene.zoom(1.75);
      scene.render();
      ready(index, canvas.toDataURL("image/jpeg", 0.82));
      await new Promise((done) => requestAnimationFrame(done));
    }
  } finally {
    scene.dispose();
  }
}
