// Strengths that were measured on performer and character, to be looked at and used.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { pathOf } from "../../api/changes";
import { api, type CastProposal, type Change } from "../../api/client";
import { Plain, Primary, Section } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { stopTrial, tryOut, useTrial } from "../../workspace/trial";
import { edit, useOpen } from "../../workspace/workspace";

type Field = "wayStrength" | "shapeStrength" | "directions";

/** The changes of the sheet that take proposals over. Pure. */
export const proposalChanges = (proposals: CastProposal[]): Change[] =>
  proposals.map((p) => ({ path: pathOf(p.field as Field, p.name), value: p.value }));

export function MeasuredSection() {
  const { opened } = useOpen("opened");
  const trial = useTrial((s) => s.name);
  const asked = useQuery({
    queryKey: [
      "proportions",
      opened!.take.id,
      opened!.character?.id,
      opened!.character?.version,
      opened!.cast?.version,
    ],
    queryFn: () => api.proportions(opened!.take.id),
    placeholderData: (b) => b,
  });
  const found = asked.data?.proposals ?? [];
  const use = (list: CastProposal[], label: string) => {
    stopTrial();
    void edit("cast", label, proposalChanges(list));
  };
  const here = () =>
    void tryOut(
      "measured strengths",
      { cast: proposalChanges(found) },
      clock.range ?? { from: Math.max(clock.frame - 30, 0), to: Math.min(clock.frame + 30, clock.frames - 1) },
    );
  return (
    <Section
      title="Measured"
      aside={
        found.length > 1 ? (
          <Primary onClick={() => use(found, "measured strengths")}>Use all {found.length}</Primary>
        ) : undefined
      }
    >
      <Text fontSize="sm" color="dim" mb="1">
        {!asked.data
          ? "Measuring…"
          : asked.data.card
            ? `From the card ${asked.data.card} and the character's own shapes.`
            : "No performer card is there, so only what the character's own mesh says. Make a card at the Solve desk."}
      </Text>
      {asked.data && !found.length && (
        <Text fontSize="sm">The character goes as far as the performer, for its size.</Text>
      )}
      <Box maxH="168px" overflowY="auto" data-testid="measured">
        {found.map((p) => (
          <Flex key={p.field + p.name} align="center" gap="2" py="0.5" fontSize="sm" title={p.words}>
            <Text flex="1" minW="0" truncate>
              {p.name}
            </Text>
            <Text color="dim" fontFamily="number" whiteSpace="nowrap">
              {p.was.toFixed(2)} →{" "}
              <Text as="span" color="ink">
                {p.value.toFixed(2)}
              </Text>
              {p.field === "directions" ? " deg" : " ×"}
            </Text>
            <Plain size="2xs" aria-label={`Use ${p.name}`} onClick={() => use([p], `measured: ${p.name}`)}>
              use
            </Plain>
          </Flex>
        ))}
      </Box>
      {found.length > 0 && (
        <Flex mt="1.5" gap="1.5">
          <Plain size="2xs" aria-pressed={trial !== null} onClick={() => (trial === null ? here() : stopTrial())}>
            {trial === null ? "Before and after in a loop" : "Stop"}
          </Plain>
        </Flex>
      )}
    </Section>
  );
}
