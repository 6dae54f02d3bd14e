// The plain capture head, drawn where the footage's picture lies, so that both can be laid over each other.
import { Box, Text } from "@chakra-ui/react";
import { useRef } from "react";
import { clock } from "../playback/clock";
import { useCatalogue } from "../shared/catalogue";
import { onSession, sessionState, useSession } from "../workspace/workspace";
import { HeadCanvas, type Size } from "./HeadCanvas";
import { weightsAt } from "./headModel";

/** The solve of footage that is chosen, where its capture head can be drawn. */
export function useSolveOfHead(): string | undefined {
  return useSession((s) =>
    (s.opened?.sources.curves?.info.solve as { cardMedium?: string } | undefined)?.cardMedium
      ? s.opened!.sources.curves!.id
      : undefined,
  );
}

type Props = { source: string; picture: Size; style?: React.CSSProperties };

export function CaptureHead({ source, picture, style }: Props) {
  const { shapes } = useCatalogue();
  const weights = useRef(new Float32Array(shapes.length));
  return (
    <Box position="absolute" inset="0" style={style} pointerEvents="none">
      <HeadCanvas
        source={source}
        label="Capture head"
        testId="capture-head"
        pose={(scene, _, canvas) => {
          const { curves } = sessionState();
          const frame = Math.min(clock.frame, (curves?.frames ?? 1) - 1);
          weightsAt(curves, shapes, frame, weights.current);
          scene.pose(weights.current, frame);
          canvas.dataset.frame = String(frame);
          return picture;
        }}
        follow={(changed) => {
          const off = [clock.onMove(changed), onSession(changed)];
          return () => off.forEach((f) => f());
        }}
      />
    </Box>
  );
}

/** The capture head in a view of its own. */
export function HeadView() {
  const source = useSolveOfHead();
  const footage = useSession((s) => s.opened?.sources.footage?.info) as Size | undefined;
  const name = useSession((s) => s.opened?.sources.curves?.name);
  return (
    <Box position="absolute" inset="0" bg="bg.ground" data-testid="head-view">
      {source && footage ? (
        <CaptureHead source={source} picture={footage} />
      ) : (
        <Text position="absolute" top="45%" left="0" right="0" px="6" textAlign="center" color="dim">
          The capture head shows a solve of footage. Solve the clip to see it.
        </Text>
      )}
      {source && (
        <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">
          Capture head, {name}
        </Text>
      )}
    </Box>
  );
}
