// Which joints of the character are looked at: how they turn and how high they are in the deck, where they went in the viewer.
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Section } from "../../drawer/parts";
import { activeSession, useSession } from "../../workspace/workspace";
import { LOOKS, toggleWatched, useWatched } from "../../workspace/watched";

const ROWS = 80;

export function JointLooks() {
  const joints = useSession((s) => s.body?.joints) ?? [];
  const watched = useWatched((s) => s.joints);
  const [word, setWord] = useState("");
  const found = joints.filter((j) => j.toLowerCase().includes(word.trim().toLowerCase()));
  // What is looked at stands first.
  const order = [...found.filter((j) => watched[j]), ...found.filter((j) => !watched[j])];
  if (!joints.length) return null;
  return (
    <Section
      title="Look at joints"
      aside={
        <Text color="dim" fontSize="sm">
          in the deck and as trails
        </Text>
      }
    >
      <Input
        size="xs"
        mb="1"
        placeholder="Find a joint"
        aria-label="Find a joint"
        value={word}
        onChange={(e) => setWord(e.target.value)}
      />
      <Box
        maxH="170px"
        overflowY="auto"
        borderWidth="1px"
        borderColor="line"
        borderRadius="sm"
        role="group"
        aria-label="Joints"
      >
        {order.slice(0, ROWS).map((joint) => (
          <Flex key={joint} align="center" gap="1" px="1.5" minH="22px" data-testid="joint-look">
            <Text flex="1" minW="0" truncate fontSize="sm" title={joint}>
              {joint}
            </Text>
            {LOOKS.map((look) => {
              const on = !!watched[joint]?.includes(look);
              return (
                <Box
                  as="button"
                  key={look}
                  px="1.5"
                  fontSize="xs"
                  borderRadius="2px"
                  cursor="pointer"
                  aria-pressed={on}
                  aria-label={`${look} of ${joint}`}
                  color={on ? "ink" : "dim"}
                  bg={on ? "bg.pressed" : undefined}
                  onClick={() => toggleWatched(joint, look, activeSession())}
                >
                  {look}
                </Box>
              );
            })}
          </Flex>
        ))}
        {!order.length && (
          <Text p="1.5" fontSize="sm" color="dim">
            No joint is called so.
          </Text>
        )}
      </Box>
    </Section>
  );
}
