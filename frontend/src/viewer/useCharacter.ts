// Shows a character in a box for as long as the box is there.
import { useCallback, useEffect, useRef, useState, type RefObject } from "react";
import { onTheme } from "../shared/colourMode";
import { addPainter } from "../timekit/frameLoop";
import { CharacterCanvas, left } from "./characterCanvas";
import type { Framing } from "./FramingTools";
import type { CharacterScene } from "./scene";

export const NO_3D = "This browser draws no 3D. Turn on WebGL to see the character.";
/** scene: null where there is none; redraw: draws the next frame; failed: why it is not seen, "" where it is. */
export type Character = {
  ready: boolean;
  failed: string;
  framing: Framing;
  scene: () => CharacterScene | null;
  redraw: () => void;
  frame: (what: Framing) => void;
};

/** source: of the model, "" for none yet; paint: poses the scene before each drawing; watch: what asks for drawings, ended by what it
 * returns. */
export function useCharacter(
  box: RefObject<HTMLDivElement | null>,
  source: string,
  paint: (scene: CharacterScene, ready: boolean) => void,
  watch: (redraw: () => void) => (() => void)[],
): Character {
  const made = useRef<CharacterCanvas | null>(null);
  const painted = useRef(paint);
  const watched = useRef(watch);
  const draw = useRef<() => void>(() => undefined);
  const [ready, setReady] = useState("");
  const [failed, setFailed] = useState("");
  const [framing, setFraming] = useState<Framing>("face");
  const first = useRef(source);
  const framed = useRef<Framing>("face");
  useEffect(() => {
    painted.current = paint;
    draw.current();
  });

  useEffect(() => {
    let one: CharacterCanvas;
    try {
      const kept = left.take(first.current);
      one = kept && !kept.lost ? kept : new CharacterCanvas();
    } catch {
      setFailed(NO_3D);
      return;
    }
    made.current = one;
    const { canvas, scene } = one;
    const holder = box.current!;
    holder.prepend(canvas);
    const painter = addPainter(() => {
      painted.current(scene, one.ready);
      scene.render();
    });
    draw.current = painter.invalidate;
    scene.onChange(painter.invalidate);
    const ground = () => {
      scene.setTheme();
      painter.invalidate();
    };
    ground();
    const watcher = new ResizeObserver(() => {
      scene.resize();
      painter.invalidate();
    });
    watcher.observe(holder);
    const off = [onTheme(ground), ...watched.current(painter.invalidate)];
    return () => {
      off.forEach((f) => f());
      watcher.disconnect();
      painter.remove();
      scene.onChange(() => undefined);
      scene.trail(null, {}, 0);
      draw.current = () => undefined;
      canvas.remove();
      made.current = null;
      left.leave(one);
    };
  }, [box]);

  useEffect(() => {
    const one = made.current;
    if (!one) return;
    one.canvas.style.visibility = source ? "visible" : "hidden"; // what another view left in it is nobody's here
    if (!source) return;
    let gone = false;
    setFailed("");
    one.show(source).then(
      () => {
        if (gone || one.source !== source) return;
        painted.current(one.scene, true);
        one.scene.frame(framed.current);
        setReady(source);
        draw.current();
      },
      (wrong: unknown) => {
        if (!gone) setFailed(`The character can't be shown: ${wrong instanceof Error ? wrong.message : String(wrong)}`);
      },
    );
    return () => {
      gone = true;
    };
  }, [source]);

  const frame = useCallback((what: Framing) => {
    setFraming(what);
    framed.current = what;
    made.current?.scene.frame(what);
    draw.current();
  }, []);
  const scene = useCallback(() => made.current?.scene ?? null, []);
  const redraw = useCallback(() => draw.current(), []);
  return { ready: !!source && ready === source, failed, framing, scene, redraw, frame };
}
