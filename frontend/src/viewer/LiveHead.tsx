// The plain capture head moved by what a live camera shows: rough, but at once.
import { Box, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { addPainter } from "../timekit/frameLoop";
import { placed } from "./footage";
import { headModel } from "./headModel";
import { HeadScene } from "./headScene";
import { calmed, useLive } from "./live";

export function LiveHead() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const made = useQuery({
    queryKey: ["head", "general"],
    queryFn: async () => headModel(await api.generalHead()),
    staleTime: Infinity,
    retry: false,
  }).data;
  const [failed, setFailed] = useState(false);
  const seen = useLive((s) => s.weights.length > 0);

  useEffect(() => {
    const element = canvas.current!;
    if (!made) return;
    let scene: HeadScene;
    try {
      scene = new HeadScene(element);
    } catch {
      return setFailed(true);
    }
    scene.load(made);
    let weights: number[] = [];
    const painter = addPainter(() => {
      const now = useLive.getState();
      if (now.weights.length) weights = calmed(weights, now.weights);
      if (now.pose.length) made.poses.set(now.pose);
      scene.pose(weights, 0);
      const { clientWidth: width, clientHeight: height } = element.parentElement!;
      scene.render(width, height, placed(now.width, now.height, width, height), now.width, now.height);
      element.dataset.weights = weights.reduce((a, w) => a + w, 0).toFixed(2);
    });
    const watcher = new ResizeObserver(painter.invalidate);
    watcher.observe(element.parentElement!);
    const off = useLive.subscribe(painter.invalidate);
    return () => {
      off();
      watcher.disconnect();
      painter.remove();
      scene.dispose();
    };
  }, [made]);

  return (
    <Box position="absolute" inset="0" bg="bg.ground">
      <canvas
        ref={canvas}
        style={{ position: "absolute", width: "100%", height: "100%" }}
        data-testid="live-head"
        aria-label="Live head"
      />
      <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">
        Live preview: rough, from the camera's picture alone
      </Text>
      {!seen && !failed && (
        <Text position="absolute" bottom="14px" left="0" right="0" textAlign="center" color="dim">
          No face is seen yet.
        </Text>
      )}
      {failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          This browser draws no 3D. Turn on WebGL to see the head.
        </Text>
      )}
    </Box>
  );
}
