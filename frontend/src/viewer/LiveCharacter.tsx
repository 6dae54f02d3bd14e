// A character moved by what a live camera shows, or a sender of a feed sends.
import { Box, HStack, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { FramingTools, type Framing } from "./FramingTools";
import { api } from "../api/client";
import { addPainter } from "../timekit/frameLoop";
import type { Body } from "../workspace/workspace";
import { calmed, Lateness, useLive, type Driven } from "./live";
import { CharacterScene } from "./scene";

/** of: whose it is, of those that are driven. */
export function LiveCharacter({ of }: { of: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useRef<CharacterScene | null>(null);
  const [failed, setFailed] = useState(false);
  const [ready, setReady] = useState(false);
  const [framing, setFraming] = useState<Framing>("face");
  const mine = (s: { driven: Driven[] }) => s.driven.find((d) => d.of === of);
  const source = useLive((s) => mine(s)?.source);
  const called = useLive((s) => mine(s)?.called);

  useEffect(() => {
    const element = canvas.current!;
    let scene: CharacterScene;
    try {
      scene = new CharacterScene(element, () => painter.invalidate());
    } catch {
      return setFailed(true);
    }
    shown.current = scene;
    let calm: number[] = [];
    let loaded = false;
    setReady(false);
    const late = new Lateness();
    const painter = addPainter(() => {
      const { driven: all, calms } = useLive.getState();
      const driven = all.find((d) => d.of === of);
      if (driven) {
        calm = calms ? calmed(calm, driven.weights) : Array.from(driven.weights);
        scene.pose(bodyOf(driven, calm), 0, {});
        if (driven.shifted.length) scene.follow();
        element.dataset.weights = calm.reduce((a, w) => a + w, 0).toFixed(2);
        if (driven.heard && loaded) {
          late.note(driven.heard, Date.now());
          element.dataset.late = late
            .said()
            .map((n) => n.toFixed(1))
            .join(" ");
        }
      }
      scene.render();
    });
    scene.setTheme();
    const watcher = new ResizeObserver(() => {
      scene.resize();
      painter.invalidate();
    });
    watcher.observe(element.parentElement!);
    const off = useLive.subscribe(painter.invalidate);
    let gone = false;
    if (source)
      void api.media(source).then(
        async (raw) => {
          if (gone) return;
          await scene.load(raw);
          scene.frame(scene.framing);
          loaded = true;
          setReady(true);
          painter.invalidate();
        },
        () => setFailed(true),
      );
    return () => {
      gone = true;
      off();
      watcher.disconnect();
      painter.remove();
      scene.dispose();
      shown.current = null;
    };
  }, [source, of]);

  const frame = (what: Framing) => {
    setFraming(what);
    shown.current?.frame(what);
  };

  return (
    <Box position="absolute" inset="0" bg="bg.ground">
      <canvas
        ref={canvas}
        style={{ width: "100%", height: "100%", display: "block" }}
        data-testid="live-character"
        data-of={of}
        data-loaded={ready}
        aria-label="Live character"
      />
      {called && (
        <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">
          {called}
        </Text>
      )}
      <HStack position="absolute" top="4px" right="6px" gap="0">
        <FramingTools framing={framing} onFrame={frame} />
      </HStack>
      {!ready && !failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          Loading the character…
        </Text>
      )}
      {failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          The character cannot be shown here.
        </Text>
      )}
    </Box>
  );
}

/** One frame as the scene poses it. */
function bodyOf(driven: Driven, weights: number[]): Body {
  return {
    targets: driven.targets,
    still: driven.still,
    weights: { data: Float32Array.from(weights), shape: [1, weights.length] },
    joints: driven.joints,
    motion: { data: Float32Array.from(driven.motion), shape: [1, driven.joints.length, 4] },
    rootJoint: "",
    root: null,
    shifted: driven.shifted,
    shifts: { data: Float32Array.from(driven.shifts), shape: [1, driven.shifted.length, 3] },
    kept: [],
    crossings: [],
  };
}
