// The live picture with the tracked points, the count-in, the time recorded; then what was recorded.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useRef } from "react";
import { useRecorder } from "./recorder";
import { useGlances } from "./useGlances";

export function CameraView({ production, watching = true }: { production: string; watching?: boolean }) {
  const { phase, stream, clip, count, seconds } = useRecorder();
  const live = useRef<HTMLVideoElement>(null);
  const marks = useRef<HTMLCanvasElement>(null);
  const shown = useMemo(() => (clip ? URL.createObjectURL(clip) : ""), [clip]);
  useEffect(
    () => () => {
      if (shown) URL.revokeObjectURL(shown);
    },
    [shown],
  );
  useEffect(() => {
    if (live.current && !clip) live.current.srcObject = stream;
  }, [stream, clip]);
  const open = watching && !!stream && !clip;
  const words = useGlances(production, open && phase !== "recording", live, marks);
  const rate = stream?.getVideoTracks()[0]?.getSettings().frameRate ?? 0;
  return (
    <>
      <Box position="relative" bg="bg.lane" borderRadius="sm" overflow="hidden" style={{ aspectRatio: "4 / 3" }}>
        {clip ? (
          <video
            src={shown}
            controls
            style={{ width: "100%", height: "100%", objectFit: "contain" }}
            aria-label="What was recorded"
          />
        ) : (
          <video
            ref={live}
            autoPlay
            muted
            playsInline
            style={{ width: "100%", height: "100%", objectFit: "contain" }}
            aria-label="Live picture"
          />
        )}
        {!clip && (
          <canvas
            ref={marks}
            style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}
          />
        )}
        {phase === "counting" && (
          <Flex position="absolute" inset="0" align="center" justify="center" bg="blackAlpha.500">
            <Text fontSize="72px" fontFamily="number" color="accent">
              {count}
            </Text>
          </Flex>
        )}
        {phase === "recording" && (
          <Flex
            position="absolute"
            top="2"
            left="2"
            align="center"
            gap="1.5"
            bg="blackAlpha.700"
            px="2"
            borderRadius="sm"
          >
            <Box w="8px" h="8px" borderRadius="full" bg="accent" />
            <Text fontFamily="number" color="paper">
              {seconds.toFixed(1)} s
            </Text>
          </Flex>
        )}
      </Box>
      {open && (
        <Box mt="1.5" minH="40px" aria-live="polite">
          {words.length ? (
            words.map((w) => (
              <Text key={w} fontSize="sm" color="accent">
                {w}
              </Text>
            ))
          ) : (
            <Text fontSize="sm" color="dim">
              {phase === "recording" ? "Recording." : "The face stands well."}
            </Text>
          )}
          {rate > 0 && rate < 24 && (
            <Text fontSize="sm" color="accent">
              Only {rate.toFixed(0)} pictures a second: more light, or another camera
            </Text>
          )}
        </Box>
      )}
    </>
  );
}
