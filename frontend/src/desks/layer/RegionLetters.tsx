// Regions of the face by their letters, each on or off.
import { Box, Flex } from "@chakra-ui/react";
import { isLight } from "../../shared/colourMode";
import { colourOf, REGIONS } from "../../shared/regions";

const FACE = REGIONS.filter((r) => r.name !== "extra");

type Props = { label: string; on: (region: string) => boolean; onToggle: (region: string) => void };

export function RegionLetters({ label, on, onToggle }: Props) {
  return (
    <Flex gap="0.5" role="group" aria-label={label}>
      {FACE.map((r) => (
        <Box
          as="button"
          key={r.name}
          w="20px"
          h="20px"
          fontSize="xs"
          borderRadius="2px"
          borderWidth="1px"
          borderColor="line"
          cursor="pointer"
          title={r.name}
          aria-label={`${label} ${r.name}`}
          aria-pressed={on(r.name)}
          color={on(r.name) ? "bg.ground" : "dim"}
          style={on(r.name) ? { background: colourOf(r.name, isLight()) } : undefined}
          onClick={() => onToggle(r.name)}
        >
          {r.letter}
        </Box>
      ))}
    </Flex>
  );
}
