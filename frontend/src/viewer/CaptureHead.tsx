// The plain capture head, drawn where the footage's picture lies, so that both can be laid over each other.
import { Box, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { useCatalogue } from "../shared/catalogue";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { useSession, sessionState, onSession } from "../workspace/workspace";
import { placed } from "./footage";
import { headModel, weightsAt } from "./headModel";
import { HeadScene } from "./headScene";

type Size = { width: number; height: number };

/** The solve of footage that is chosen, where its capture head can be drawn. */
export function useSolveOfHead(): string | undefined {
  return useSession((s) =>
    (s.opened?.sources.curves?.info.solve as { cardMedium?: string } | undefined)?.cardMedium
      ? s.opened!.sources.curves!.id
      : undefined,
  );
}

export function CaptureHead({
  source,
  picture,
  style,
}: {
  source: string;
  picture: Size;
  style?: React.CSSProperties;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { shapes } = useCatalogue();
  const made = useQuery({
    queryKey: ["head", source],
    queryFn: async () => headModel(await api.head(source)),
    staleTime: Infinity,
    retry: false,
  }).data;
  const [failed, setFailed] = useState(false);

  useEffect(() => {
    const element = canvas.current!;
    if (!made) return;
    let scene: HeadScene;
    try {
      scene = new HeadScene(element);
    } catch {
      setFailed(true);
      return;
    }
    scene.load(made);
    const weights = new Float32Array(shapes.length);
    const painter = addPainter(() => {
      const { curves } = sessionState();
      const frame = Math.min(clock.frame, (curves?.frames ?? 1) - 1);
      weightsAt(curves, shapes, frame, weights);
      scene.pose(weights, frame);
      const { clientWidth: width, clientHeight: height } = element.parentElement!;
      scene.render(width, height, placed(picture.width, picture.height, width, height), picture.width, picture.height);
      element.dataset.frame = String(frame);
    });
    const watcher = new ResizeObserver(painter.invalidate);
    watcher.observe(element.parentElement!);
    const off = [clock.onMove(painter.invalidate), onSession(painter.invalidate)];
    return () => {
      off.forEach((f) => f());
      watcher.disconnect();
      painter.remove();
      scene.dispose();
    };
  }, [made, picture.width, picture.height, shapes]);

  return (
    <Box position="absolute" inset="0" style={style} pointerEvents="none">
      <canvas
        key={source}
        ref={canvas}
        style={{ position: "absolute", width: "100%", height: "100%" }}
        data-ready={!!made}
        data-testid="capture-head"
        aria-label="Capture head"
      />
      {failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          This browser draws no 3D. Turn on WebGL to see the head.
        </Text>
      )}
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
