// How far each channel of the chosen solve goes.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import { useCatalogue } from "../../shared/catalogue";
import { isLight } from "../../shared/colourMode";
import { colourOf, fullScale, REGIONS } from "../../shared/regions";
import { Fact, Section } from "../../drawer/parts";
import { select, useOpen } from "../../workspace/workspace";
import { reaches } from "./reach";

export function Channels() {
  const { curves, selected } = useOpen("curves", "selected");
  const { regionOf } = useCatalogue();
  const rows = useMemo(() => (curves ? reaches(curves.raw.data, curves.channels) : []), [curves]);
  if (!curves) return null;
  const quiet = rows.filter((r) => r.high - r.low < 0.02 * fullScale(r.name)).length;
  return (
    <>
      <Section title="Channels">
        <Fact name="Channels">
          {curves.channels.length}, {quiet} of them hardly move
        </Fact>
        <Fact name="Frames known">
          {((1 - rows.reduce((a, r) => a + r.gaps, 0) / Math.max(rows.length * curves.frames, 1)) * 100).toFixed(1)}%
        </Fact>
        <Text mt="2" fontSize="sm" color="dim">
          Each bar shows how far a channel goes in this take, from its lowest to its highest. Click one to see its
          curve.
        </Text>
      </Section>
      {REGIONS.map(({ name: region }) => {
        const own = rows.filter((r) => regionOf[r.name] === region);
        if (!own.length) return null;
        return (
          <Section key={region} title={region}>
            {own.map((r) => {
              const angle = fullScale(r.name) > 1;
              const at = (v: number) => Math.min(Math.max(angle ? (v + 30) / 60 : v, 0), 1) * 100;
              return (
                <Flex
                  as="button"
                  key={r.name}
                  w="100%"
                  align="center"
                  gap="2"
                  py="0.5"
                  cursor="pointer"
                  bg={selected.includes(r.name) ? "bg.pressed" : undefined}
                  onClick={(e: React.MouseEvent) => select(e.ctrlKey ? [...selected, r.name] : [r.name])}
                >
                  <Text w="136px" textAlign="left" fontSize="sm" truncate>
                    {r.name}
                  </Text>
                  <Box flex="1" h="7px" bg="bg.lane" position="relative" borderRadius="2px">
                    <Box
                      position="absolute"
                      top="0"
                      bottom="0"
                      borderRadius="2px"
                      style={{
                        left: `${at(r.low)}%`,
                        width: `${Math.max(at(r.high) - at(r.low), 1)}%`,
                        background: colourOf(region, isLight()),
                      }}
                    />
                  </Box>
                  <Text w="66px" textAlign="right" fontSize="xs" color="dim">
                    {angle ? `${r.low.toFixed(0)}..${r.high.toFixed(0)}°` : `${r.low.toFixed(2)}..${r.high.toFixed(2)}`}
                  </Text>
                </Flex>
              );
            })}
          </Section>
        );
      })}
    </>
  );
}
