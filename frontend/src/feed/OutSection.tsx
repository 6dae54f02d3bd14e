// Feeds out: what is shown is sent on to another program.
import { Box, Flex, IconButton, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { ChoiceField } from "../drawer/ChoiceField";
import { AmountField, Plain, Primary, Section, TextField, Toggle } from "../drawer/parts";
import { notify } from "../shared/notices";
import { ask, useFeed } from "./feedWire";

const USUAL = { to: "127.0.0.1:8472", rate: 60, pattern: "", character: "", changes: false, of: "both" };
const OF = { both: "what is live and played", live: "what is live", timeline: "what is played" };

export function OutSection({ production }: { production: string }) {
  const outs = useFeed((s) => s.state?.outs.length ?? 0);
  const characters = useQuery({ queryKey: ["characters", production], queryFn: () => api.characters(production) });
  const [adding, setAdding] = useState(false);
  const [given, setGiven] = useState(USUAL);
  const begin = async () => {
    const [, host, port] = /^(.+):(\d{1,5})$/.exec(given.to.trim()) ?? [];
    if (!host || !port) return notify({ kind: "info", message: "Say where as machine:port" });
    const { rate, pattern, character, changes, of } = given;
    const named = pattern ? { pattern, character, changes } : {};
    if (await ask("send", { host, port: Number(port), rate, of, ...named })) setAdding(false);
  };
  return (
    <Section
      title="Sent on"
      aside={
        !adding && (
          <Plain size="2xs" onClick={() => setAdding(true)}>
            Send on…
          </Plain>
        )
      }
    >
      {!outs && !adding && (
        <Text fontSize="sm" color="dim">
          What is live, or what is played on the deck, can drive another program at the same time.
        </Text>
      )}
      {Array.from({ length: outs }, (_, place) => (
        <OutRow key={place} place={place} />
      ))}
      {adding && (
        <Box mt="1">
          <TextField
            label="To"
            value={given.to}
            onCommit={(to) => setGiven({ ...given, to })}
            placeholder="machine:port"
          />
          <ChoiceField
            word="What"
            label="What is sent"
            value={given.of}
            choices={OF}
            onChoose={(of) => setGiven({ ...given, of })}
          />
          <AmountField
            label="At most"
            value={given.rate}
            low={1}
            high={120}
            step={1}
            unit="a second"
            onDrag={() => undefined}
            onCommit={(rate) => setGiven({ ...given, rate })}
          />
          <TextField
            label="Address"
            value={given.pattern}
            placeholder="our layout, or /face/{channel}"
            onCommit={(pattern) => setGiven({ ...given, pattern })}
          />
          {given.pattern && (
            <ChoiceField
              word="Names"
              label="By whose names channels go out"
              value={given.character}
              choices={{
                "": "ours",
                ...Object.fromEntries(characters.data?.map((c) => [c.id, `as ${c.name} calls them`]) ?? []),
              }}
              onChoose={(character) => setGiven({ ...given, character })}
            />
          )}
          {given.pattern && (
            <Toggle
              label="Only what changes"
              on={given.changes}
              onChange={(changes) => setGiven({ ...given, changes })}
            />
          )}
          <Flex gap="2" mt="1.5">
            <Primary onClick={() => void begin()}>Begin</Primary>
            <Plain onClick={() => setAdding(false)}>Leave it</Plain>
          </Flex>
        </Box>
      )}
    </Section>
  );
}

function OutRow({ place }: { place: number }) {
  const out = useFeed((s) => s.state?.outs[place]);
  if (!out) return null;
  return (
    <Flex align="center" gap="2" py="0.5" data-testid="out">
      <Box flex="1" minW="0">
        <Text fontFamily="number" truncate>
          {out.host}:{out.port}
        </Text>
        <Text fontSize="xs" color={out.trouble ? "accent" : "dim"}>
          {out.trouble ||
            `${OF[out.of]}, ${out.sent} packets, at most ${out.rate} a second${out.pattern ? `, ${out.pattern}` : ""}`}
        </Text>
      </Box>
      <IconButton
        aria-label={`End sending to ${out.host}:${out.port}`}
        size="2xs"
        variant="ghost"
        onClick={() => void ask("end_sending", { place })}
      >
        <X size={13} />
      </IconButton>
    </Flex>
  );
}
