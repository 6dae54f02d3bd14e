// Keeps a scene drawn in its box: as large as that, in the page's colours, and again whenever something asks for it.
import { onTheme } from "../shared/colourMode";
import { addPainter } from "../timekit/frameLoop";
import type { CharacterScene } from "./scene";

/** paint: poses the scene before each drawing; watch: begins what asks for drawings, and gives what ends that. */
export function drawScene(
  scene: CharacterScene,
  box: HTMLElement,
  paint: () => void,
  watch: (redraw: () => void) => (() => void)[],
): { redraw: () => void; end: () => void } {
  const painter = addPainter(() => {
    paint();
    scene.render();
  });
  const redraw = painter.invalidate;
  const ground = () => {
    scene.setTheme();
    redraw();
  };
  ground();
  scene.onChange(redraw);
  const watcher = new ResizeObserver(() => {
    scene.resize();
    redraw();
  });
  watcher.observe(box);
  const off = [onTheme(ground), ...watch(redraw)];
  const end = () => {
    off.forEach((f) => f());
    watcher.disconnect();
    painter.remove();
    scene.onChange(() => undefined);
  };
  return { redraw, end };
}
