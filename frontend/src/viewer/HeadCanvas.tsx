// The plain capture head on a canvas where a picture lies: what moves it is given.
import { Box, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { api } from "../api/client";
import { addPainter } from "../timekit/frameLoop";
import { placed } from "./footage";
import { headModel, type HeadModel } from "./headModel";
import { HeadScene } from "./headScene";

export type Size = { width: number; height: number };
type Props = {
  /** A solve's source, or the general head where there is none. */
  source?: string;
  label: string;
  testId: string;
  /** Poses the head and says how large the picture is that it is laid over. */
  pose: (scene: HeadScene, model: HeadModel, canvas: HTMLCanvasElement) => Size;
  /** Calls back whenever the head must be drawn anew; gives what ends that. */
  follow: (changed: () => void) => () => void;
};

export function HeadCanvas({ source, label, testId, pose, follow }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const made = useQuery({
    queryKey: ["head", source ?? "general"],
    queryFn: async () => headModel(await (source ? api.head(source) : api.generalHead())),
    staleTime: Infinity,
    retry: false,
  }).data;
  const [failed, setFailed] = useState(false);
  const posed = useEffectEvent(pose);
  const followed = useEffectEvent(follow);

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
    const painter = addPainter(() => {
      const picture = posed(scene, made, element);
      const { clientWidth: width, clientHeight: height } = element.parentElement!;
      scene.render(width, height, placed(picture.width, picture.height, width, height), picture.width, picture.height);
    });
    const watcher = new ResizeObserver(painter.invalidate);
    watcher.observe(element.parentElement!);
    const off = followed(painter.invalidate);
    return () => {
      off();
      watcher.disconnect();
      painter.remove();
      scene.dispose();
    };
  }, [made]);

  return (
    <>
      <canvas
        key={source}
        ref={canvas}
        style={{ position: "absolute", width: "100%", height: "100%" }}
        data-ready={!!made}
        data-testid={testId}
        aria-label={label}
      />
      {failed && (
        <Box position="absolute" top="45%" left="0" right="0">
          <Text textAlign="center" color="dim">
            This browser draws no 3D. Turn on WebGL to see the head.
          </Text>
        </Box>
      )}
    </>
  );
}
