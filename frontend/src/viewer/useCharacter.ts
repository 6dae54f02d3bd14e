// Shows a character in a box for as long as the box is there.
import { useEffect, useEffectEvent, useRef, useState, type RefObject } from "react";
import { CharacterCanvas, left } from "./characterCanvas";
import { drawScene } from "./drawScene";
import type { Framing } from "./FramingTools";
import type { CharacterScene } from "./scene";

const NO_3D = "This browser draws no 3D. Turn on WebGL to see the character.";
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
 * returns; likely: the source that is made ready, unseen, while there is none. */
export function useCharacter(
  box: RefObject<HTMLDivElement | null>,
  source: string,
  paint: (scene: CharacterScene, ready: boolean) => void,
  watch: (redraw: () => void) => (() => void)[],
  likely = "",
): Character {
  const made = useRef<CharacterCanvas | null>(null);
  const draw = useRef<() => void>(() => undefined);
  const [ready, setReady] = useState("");
  const [failed, setFailed] = useState("");
  const [framing, setFraming] = useState<Framing>("face");
  const begin = useEffectEvent(() => {
    const kept = left.take(source);
    if (kept && !kept.lost) return kept;
    kept?.dispose();
    return new CharacterCanvas();
  });
  const painted = useEffectEvent(paint);
  const watched = useEffectEvent(watch);
  const framed = useEffectEvent((scene: CharacterScene) => scene.frame(framing));
  useEffect(() => draw.current());

  useEffect(() => {
    let one: CharacterCanvas;
    try {
      one = begin();
    } catch {
      setFailed(NO_3D);
      return;
    }
    made.current = one;
    const { canvas, scene } = one;
    box.current!.prepend(canvas);
    const { redraw, end } = drawScene(
      scene,
      box.current!,
      () => painted(scene, one.ready),
      (redraw) => watched(redraw),
    );
    draw.current = redraw;
    return () => {
      end();
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
    if (!source) return likely ? readyBeforehand(one, likely, () => draw.current()) : undefined;
    let gone = false;
    setFailed("");
    one.show(source).then(
      () => {
        if (gone || one.source !== source) return;
        painted(one.scene, true);
        framed(one.scene);
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
  }, [source, likely]);

  return {
    ready: !!source && ready === source,
    failed,
    framing,
    scene: () => made.current?.scene ?? null,
    redraw: () => draw.current(),
    frame: (what) => {
      setFraming(what);
      made.current?.scene.frame(what);
      draw.current();
    },
  };
}

/** Makes a model ready when the page has nothing else to do: whoever opens it then waits for nothing. Gives what ends the waiting. */
function readyBeforehand(one: CharacterCanvas, source: string, drawn: () => void): () => void {
  // What is wrong with it is said when it is to be seen.
  const waiting = requestIdleCallback(() => void one.show(source).then(drawn, () => undefined));
  return () => cancelIdleCallback(waiting);
}
