// Commands from other machines: where they go, and the token that they need.
import { Box, Text } from "@chakra-ui/react";
import { useState } from "react";
import { api } from "../api/client";
import { Plain, Section } from "../drawer/parts";
import { notify } from "../shared/notices";

export function CommandsSection({ production }: { production: string }) {
  const [door, setDoor] = useState<{ token: string; address: string } | null>(null);
  return (
    <Section
      title="From another machine"
      aside={
        <Plain size="2xs" onClick={() => void api.feedToken(production).then(setDoor, notify)}>
          {door ? "Another token" : "Make a token"}
        </Plain>
      }
    >
      {!door && (
        <Text fontSize="sm" color="dim">
          Start, stop, neutral and slate can be given over HTTP or Open Sound Control with a token.
        </Text>
      )}
      {door && (
        <Box fontSize="sm">
          <Text color="dim">Good for 30 days, for whoever has it:</Text>
          <Text fontFamily="number" overflowWrap="anywhere" userSelect="all" my="1">
            {door.token}
          </Text>
          <Text color="dim" overflowWrap="anywhere">
            POST {door.address}/commands/start with Authorization: Bearer and the token; or /dynaface/start with the
            token as its first text.
          </Text>
        </Box>
      )}
    </Section>
  );
}
