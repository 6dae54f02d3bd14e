import { Box, Flex, Grid, IconButton, Text } from "@chakra-ui/react";
import { X } from "lucide-react";

export const KEYS: [string, string][] = [
  ["Space", "play or pause"],
  ["← →", "one frame back, on"],
  ["Shift ← →", "ten frames back, on"],
  ["Home, End", "to the start, the end of the range"],
  ["[  ]", "range begins, ends here"],
  ["\\", "no range"],
  ["L", "loop"],
  ["Wheel, + −", "zoom the deck"],
  ["Shift wheel, PgUp PgDn", "pan the deck"],
  ["Alt drag", "pan the deck"],
  ["Shift drag on the ruler", "set the range"],
  ["Drag on the wave (Gather)", "slide the sound"],
  ["F", "fit the take or its range"],
  ["D", "shade the difference of raw and tidied"],
  ["N, Shift N", "next, previous snag or fault of the frames"],
  ["1 to 6 (Tidy)", "deck tools: scrub, keys, lasso, draw, smooth, pull"],
  [",  .", "previous, next key"],
  ["I", "insert keys at the playhead"],
  ["Del", "delete the chosen keys"],
  ["Alt arrows", "nudge the chosen keys"],
  ["Ctrl A", "choose all keys that are shown"],
  ["Ctrl C, Ctrl V", "copy, paste keys"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
  ["Ctrl K", "search takes, desks, channels"],
  ["H", "handovers"],
  ["Double-click a slider", "back to rest"],
  ["?", "this sheet"],
];

export function KeySheet({ onClose }: { onClose: () => void }) {
  return (
    <Flex
      position="fixed"
      inset="0"
      bg="blackAlpha.600"
      zIndex="modal"
      align="center"
      justify="center"
      onClick={onClose}
    >
      <Box
        role="dialog"
        aria-label="Keys"
        bg="bg.raised"
        borderWidth="1px"
        borderColor="line"
        borderRadius="lg"
        p="5"
        w="640px"
        onClick={(e) => e.stopPropagation()}
      >
        <Flex justify="space-between" mb="3">
          <Text fontWeight="600" fontSize="lg">
            Keys
          </Text>
          <IconButton aria-label="Close" size="2xs" variant="ghost" onClick={onClose}>
            <X size={14} />
          </IconButton>
        </Flex>
        <Grid templateColumns="auto 1fr auto 1fr" columnGap="4" rowGap="2">
          {KEYS.map(([key, does]) => [
            <Text key={key} fontWeight="600" whiteSpace="nowrap">
              {key}
            </Text>,
            <Text key={does} color="dim">
              {does}
            </Text>,
          ])}
        </Grid>
      </Box>
    </Flex>
  );
}
