// The plain capture head moved by what a live camera shows: rough, but at once.
import { Box, Text } from "@chakra-ui/react";
import { useRef } from "react";
import { HeadCanvas } from "./HeadCanvas";
import { calmed, useLive } from "./live";

export function LiveHead() {
  const weights = useRef<number[]>([]);
  const seen = useLive((s) => s.weights.length > 0);
  return (
    <Box position="absolute" inset="0" bg="bg.ground">
      <HeadCanvas
        label="Live head"
        testId="live-head"
        pose={(scene, model, canvas) => {
          const now = useLive.getState();
          if (now.weights.length) weights.current = calmed(weights.current, now.weights);
          if (now.pose.length) model.poses.set(now.pose);
          scene.pose(weights.current, 0);
          canvas.dataset.weights = weights.current.reduce((a, w) => a + w, 0).toFixed(2);
          return now;
        }}
        follow={(changed) => useLive.subscribe(changed)}
      />
      <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">
        Live preview: rough, from the camera's picture alone
      </Text>
      {!seen && (
        <Text position="absolute" bottom="14px" left="0" right="0" textAlign="center" color="dim">
          No face is seen yet.
        </Text>
      )}
    </Box>
  );
}
