// Channels that hold keys, each with a way back to what lies beneath.
import { Flex, Text } from "@chakra-ui/react";
import { Plain } from "../drawer/parts";
import { openSession as open } from "../workspace/workspace";
import { keep } from "./edit";
import type { Hand } from "./keys";

const WORDS = { keys: "keys", offset: "keys on top", factor: "factors" } as const;

export function HeldChannels({ hand }: { hand: Hand }) {
  return (
    <>
      {Object.entries(hand).map(([channel, h]) => (
        <Flex key={channel} justify="space-between" align="center" py="0.5" gap="2">
          <Text minW="0" truncate>
            {channel}
          </Text>
          <Flex gap="2" align="center">
            <Text fontSize="sm" color="dim" whiteSpace="nowrap">
              {h.keys.length} {WORDS[h.mode]}
            </Text>
            <Plain
              size="2xs"
              title="Back to what lies beneath"
              onClick={() =>
                void keep(open(), `take the keys of ${channel} off`, { do: "clear", channels: { [channel]: [] } }, {})
              }
            >
              take off
            </Plain>
          </Flex>
        </Flex>
      ))}
    </>
  );
}
