// The names of the shown curves, in a row of their own: nothing is written over a curve.
import { Box, Flex, Text } from "@chakra-ui/react";
import type { Curve } from "../timekit/tracks/curves";

const SHOWN = 6; // half of them where something else stands in the row: a name that is cut off says nothing

/** children: at the right end of the row. */
export function CurveNames({ curves, children }: { curves: Curve[]; children?: React.ReactNode }) {
  if (!curves.length && !children) return null;
  const most = children ? SHOWN / 2 : SHOWN;
  return (
    <Flex
      h={children ? "26px" : "20px"}
      px="3"
      gap="4"
      align="center"
      flexShrink={0}
      fontSize="sm"
      color="dim"
      whiteSpace="nowrap"
      overflow="hidden"
      data-testid="curve-names"
    >
      {curves.slice(0, most).map((c) => (
        <Text key={c.name} truncate>
          <Box
            as="span"
            display="inline-block"
            w="14px"
            borderTopWidth="2px"
            borderStyle={c.dashed ? "dashed" : "solid"}
            style={{ borderColor: c.colour }}
            mr="1.5"
            mb="1"
          />
          {c.name}
        </Text>
      ))}
      {curves.length > most && <Text>and {curves.length - most} more</Text>}
      {children && <Box flex="1" />}
      {children}
    </Flex>
  );
}
