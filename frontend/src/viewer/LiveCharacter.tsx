// A character moved by what a live camera shows, or a sender of a feed sends.
import { Box, HStack, Text } from "@chakra-ui/react";
import { useRef } from "react";
import { FramingTools } from "./FramingTools";
import type { Body } from "../workspace/workspace";
import { calmed, Lateness, useLive, type Driven } from "./live";
import { useCharacter } from "./useCharacter";

/** of: whose it is, of those that are driven. */
export function LiveCharacter({ of }: { of: string }) {
  const box = useRef<HTMLDivElement>(null);
  const calm = useRef<number[]>([]);
  const late = useRef(new Lateness());
  const mine = (s: { driven: Driven[] }) => s.driven.find((d) => d.of === of);
  const source = useLive((s) => mine(s)?.source);
  const called = useLive((s) => mine(s)?.called);
  const character = useCharacter(
    box,
    source ?? "",
    (scene, ready) => {
      const { driven: all, calms } = useLive.getState();
      const driven = all.find((d) => d.of === of);
      if (!driven) return;
      calm.current = calms ? calmed(calm.current, driven.weights) : Array.from(driven.weights);
      scene.pose(bodyOf(driven, calm.current), 0, {});
      if (driven.shifted.length) scene.follow();
      const said = box.current!.dataset;
      said.weights = calm.current.reduce((a, w) => a + w, 0).toFixed(2);
      if (driven.heard && ready) {
        late.current.note(driven.heard, Date.now());
        said.late = late.current
          .said()
          .map((n) => n.toFixed(1))
          .join(" ");
      }
    },
    (redraw) => [useLive.subscribe(redraw)],
  );

  return (
    <Box position="absolute" inset="0" bg="bg.ground">
      <Box
        ref={box}
        position="absolute"
        inset="0"
        data-testid="live-character"
        data-of={of}
        data-loaded={character.ready}
        role="img"
        aria-label="Live character"
      />
      {called && (
        <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">
          {called}
        </Text>
      )}
      <HStack position="absolute" top="4px" right="6px" gap="0">
        <FramingTools framing={character.framing} onFrame={character.frame} />
      </HStack>
      {!character.ready && !character.failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          Loading the character…
        </Text>
      )}
      {character.failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          {character.failed}
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
