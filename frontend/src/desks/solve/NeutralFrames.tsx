// First and last frame of the still face that a layout was made from.
import { Box, Flex, Text } from "@chakra-ui/react";
import { Plain } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { Frame } from "./SampleStrip";

/** of: what the frames are of, where labels must say so; the two frames stay in order whichever is moved. */
type Props = { neutral: readonly [number, number]; of?: string; onCommit: (neutral: [number, number]) => void };

export function NeutralFrames({ neutral: [first, last], of = "", onCommit }: Props) {
  return (
    <Flex align="center" gap="2" py="0.5">
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        Neutral
      </Text>
      <Box w="58px">
        <Frame label={`First neutral frame${of}`} value={first} onCommit={(v) => onCommit([v, Math.max(last, v)])} />
      </Box>
      <Box w="58px">
        <Frame label={`Last neutral frame${of}`} value={last} onCommit={(v) => onCommit([Math.min(first, v), v])} />
      </Box>
      <Plain size="2xs" title="Show the first neutral frame" onClick={() => clock.seekFrame(first)}>
        show
      </Plain>
    </Flex>
  );
}
