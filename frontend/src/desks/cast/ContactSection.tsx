// Contacts that are kept on the character's mesh, and where it goes through itself.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { Plain, Section, Toggle } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useOpen } from "../../workspace/workspace";
import { holdOrLetGo, put, type Sheet } from "./sheet";

const WORDS = {
  lips: "Lips close where the performer's do",
  lids: "Lids meet and do not pass",
  parting: "Lips part where the performer's do",
} as const;

/** Tenths without a sign at nothing. Pure. */
export const tenths = (value: number): string => (Math.abs(value) < 0.05 ? "0.0" : value.toFixed(1));

export function ContactSection({ sheet }: { sheet: Sheet }) {
  const { opened, body } = useOpen("opened", "body");
  const edges =
    useQuery({
      queryKey: ["study", opened!.character?.id, opened!.character?.version],
      queryFn: () => api.study(opened!.character!.id),
      staleTime: Infinity,
    }).data?.edges ?? {};
  const kept = body?.kept ?? [];
  const crossings = body?.crossings ?? [];
  if (!Object.keys(edges).length)
    return (
      <Section title="Contacts">
        <Text fontSize="sm" color="dim">
          No rims of lips or lids were found on this mesh, so nothing can be held there.
        </Text>
      </Section>
    );
  return (
    <Section
      title="Contacts"
      aside={
        <Text fontSize="sm" color="dim">
          {kept.filter((k) => k.on).length} held
        </Text>
      }
    >
      {(Object.keys(WORDS) as (keyof typeof WORDS)[]).map((name) => (
        <Box key={name} py="0.5">
          <Toggle
            label={WORDS[name]}
            on={sheet.contacts[name]}
            onChange={(on) =>
              void put(sheet, on ? `keep ${name} in contact` : `no contact of ${name}`, {
                contacts: { ...sheet.contacts, [name]: on },
              })
            }
          />
        </Box>
      ))}
      <Box maxH="132px" overflowY="auto" mt="1" fontSize="sm" data-testid="held">
        {kept.map((k) => (
          <Flex key={k.key} align="center" gap="2" py="0.5">
            <Box
              as="button"
              flex="1"
              minW="0"
              textAlign="left"
              cursor="pointer"
              opacity={k.on ? 1 : 0.5}
              title="Go there"
              onClick={() => clock.seekFrame(Math.round((k.first + k.last) / 2))}
            >
              {k.kind}, {k.first} to {k.last}
            </Box>
            <Text color="dim" fontFamily="number" whiteSpace="nowrap" title="Millimetres open without and with it">
              {tenths(k.before)} → {tenths(k.after)} mm
            </Text>
            <Plain size="2xs" aria-label={`${k.on ? "Let go" : "Hold"} ${k.key}`} onClick={() => holdOrLetGo(k)}>
              {k.on ? "let go" : "hold"}
            </Plain>
          </Flex>
        ))}
      </Box>
      {crossings.length > 0 && (
        <Text fontSize="sm" color="accent" mt="1">
          Goes through itself in {crossings.length} places:
        </Text>
      )}
      <Box maxH="96px" overflowY="auto" fontSize="sm" data-testid="crossings">
        {crossings.map((c) => (
          <Box
            as="button"
            display="block"
            key={c.kind + c.first}
            py="0.5"
            cursor="pointer"
            onClick={() => clock.seekFrame(c.peak)}
          >
            {c.words}, {c.first} to {c.last}, {c.depth.toFixed(1)} mm
          </Box>
        ))}
      </Box>
    </Section>
  );
}
