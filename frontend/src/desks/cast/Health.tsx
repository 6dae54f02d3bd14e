// What a character has and what does not do what it says; each entry can be played in the viewer.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { Fact, Plain, Section } from "../../drawer/parts";
import { playShapes, stopPlaying, usePlayed } from "./playShapes";

const WORDS: Record<string, string> = {
  missing: "missing",
  duplicate: "twice",
  still: "move nothing",
  "whole head": "move the head",
  "swapped sides": "swapped sides",
  animated: "already animated",
  unit: "unit",
  up: "up axis",
};

export function Health({ character, source }: { character: string; source: string }) {
  const health = useQuery({
    queryKey: ["health", character, source],
    queryFn: () => api.health(character),
    staleTime: Infinity,
  }).data;
  const played = usePlayed((s) => s.target);
  const [kind, setKind] = useState("");
  useEffect(() => stopPlaying, [character]);
  if (!health)
    return (
      <Section title="Health">
        <Text fontSize="sm" color="dim">
          Looking the character over…
        </Text>
      </Section>
    );
  const kinds = [...new Set(health.findings.map((f) => f.kind))];
  const shown = health.findings.filter((f) => f.kind === (kind || kinds[0]));
  return (
    <Section
      title="Health"
      aside={
        <Plain
          size="2xs"
          aria-pressed={played !== null}
          title="Moves each shape of the character in turn"
          onClick={() => (played === null ? playShapes(health.present.map((p) => p.target)) : stopPlaying())}
        >
          {played === null ? "Play all shapes" : "Stop"}
        </Plain>
      }
    >
      <Box data-testid="health">
        <Fact name="shapes">{new Set(health.present.map((p) => p.shape)).size} of 52</Fact>
        <Fact name="joints">
          {Object.entries(health.joints)
            .map(([part, names]) => `${part} ${names.length}`)
            .join(", ") || "none of the face"}
        </Fact>
        <Fact name="lengths">
          {health.unit || "in no known unit"}, {health.up} up
        </Fact>
        {played !== null && (
          <Fact name="playing">
            <Text color="accent">{played}</Text>
          </Fact>
        )}
        {!kinds.length && (
          <Text fontSize="sm" color="dim">
            Nothing is wrong with it.
          </Text>
        )}
        {kinds.length > 0 && (
          <>
            <Flex gap="1" wrap="wrap" my="1.5">
              {kinds.map((k) => (
                <Plain
                  key={k}
                  size="2xs"
                  aria-pressed={(kind || kinds[0]) === k}
                  bg={(kind || kinds[0]) === k ? "bg.pressed" : undefined}
                  onClick={() => setKind(k)}
                >
                  {health.findings.filter((f) => f.kind === k).length} {WORDS[k] ?? k}
                </Plain>
              ))}
            </Flex>
            <Box maxH="140px" overflowY="auto" fontSize="sm">
              {shown.map((f, i) =>
                f.target && f.kind !== "missing" ? (
                  <Box
                    as="button"
                    key={i}
                    display="block"
                    textAlign="left"
                    py="0.5"
                    cursor="pointer"
                    title="Play it in the viewer"
                    onClick={() => playShapes([f.target])}
                  >
                    {f.words}
                  </Box>
                ) : (
                  <Text key={i} py="0.5">
                    {f.words}
                  </Text>
                ),
              )}
            </Box>
          </>
        )}
      </Box>
    </Section>
  );
}
