// What a curve table holds and what was wrong with its frames.
import { Box, Flex, Text } from "@chakra-ui/react";
import { Fact } from "../../drawer/parts";

export type Report = {
  rows: number;
  span: number;
  nominalRate: string;
  measuredRate: number;
  dropped: number;
  doubled: number;
  uneven: number;
  longestGap: number;
  matched: { column: string; channel: string }[];
  unmatched: string[];
  missing: string[];
  blankCells: number;
  beyond: string[];
  notes: string[];
  timecode: string;
  timecodeRate: string;
  recipe: Recipe;
};
export type Recipe = {
  time_column: string;
  time_unit: string;
  timecode_column: string;
  timecode_rate: string;
  rate: string;
  percent: boolean;
  radians: boolean;
  columns: Record<string, string>;
};

export function TableReport({ report: r }: { report: Report }) {
  const worst = Math.max(r.dropped, r.doubled, r.uneven, 1);
  return (
    <Box>
      <Fact name="Rows">
        {r.rows} over {r.span.toFixed(2)} s
      </Fact>
      <Fact name="Rate">
        {r.nominalRate} fps, measured {r.measuredRate.toFixed(2)}
      </Fact>
      {(
        [
          ["dropped", r.dropped],
          ["doubled", r.doubled],
          ["uneven", r.uneven],
        ] as const
      ).map(([name, count]) => (
        <Flex key={name} align="center" gap="2" py="0.5">
          <Text color="dim" w="86px">
            {name[0]!.toUpperCase() + name.slice(1)}
          </Text>
          <Box flex="1" h="6px" bg="bg.pressed" borderRadius="2px" overflow="hidden">
            <Box h="100%" bg="wave" style={{ width: `${(count / worst) * 100}%` }} />
          </Box>
          <Text w="74px" textAlign="right" whiteSpace="nowrap">
            {count} frames
          </Text>
        </Flex>
      ))}
      <Fact name="Longest gap">{(r.longestGap * 1000).toFixed(0)} ms</Fact>
      {r.timecode && (
        <Fact name="Timecode">
          {r.timecode} at {r.timecodeRate}
        </Fact>
      )}
      <Fact name="Columns">
        {r.matched.length} matched{r.unmatched.length ? `, ${r.unmatched.length} not` : ""}
        {r.missing.length ? `, ${r.missing.length} shapes missing` : ""}
      </Fact>
      {r.blankCells > 0 && <Fact name="Blank cells">{r.blankCells} become gaps</Fact>}
      {r.beyond.length > 0 && <Fact name="Beyond 0..1">{r.beyond.join(", ")}</Fact>}
      {r.unmatched.length > 0 && (
        <Text fontSize="sm" color="dim" mt="1">
          Not read: {r.unmatched.join(", ")}
        </Text>
      )}
      {r.missing.length > 0 && (
        <Text fontSize="sm" color="dim" mt="1">
          Missing: {r.missing.join(", ")}
        </Text>
      )}
      {r.notes.map((n) => (
        <Text key={n} fontSize="sm" mt="1">
          {n}
        </Text>
      ))}
    </Box>
  );
}
