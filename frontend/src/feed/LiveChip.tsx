// In the top line: what is heard, recorded or sent on now, from whatever desk. Takes that were made of it are listed at once.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useShallow } from "zustand/react/shallow";
import { runningOf } from "./feedModel";
import { useFeed } from "./feedWire";

export function LiveChip({ onOpen }: { onOpen: () => void }) {
  const running = useFeed(useShallow((s) => runningOf(s.state)));
  const made = useFeed((s) => s.state?.made.at(-1));
  const client = useQueryClient();
  useEffect(() => {
    if (made) void client.invalidateQueries({ queryKey: ["takes"] });
  }, [made, client]);
  if (!running) return null;
  return (
    <Flex
      as="button"
      align="center"
      gap="1.5"
      px="2"
      py="0.5"
      borderWidth="1px"
      borderColor={running.recording ? "accent" : "line"}
      borderRadius="full"
      fontSize="sm"
      cursor="pointer"
      title="Open the feed"
      data-testid="live-chip"
      onClick={onOpen}
    >
      <Box w="8px" h="8px" borderRadius="full" bg={running.recording ? "accent" : "wave"} />
      <Text whiteSpace="nowrap">{running.words}</Text>
    </Flex>
  );
}
