// How a table on its way in is read: its report, and each part of the reading to be corrected.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Plain } from "../../drawer/parts";
import { useCatalogue } from "../../shared/catalogue";
import { correct, type Incoming } from "./imports";
import { TableReport, type Report } from "./TableReport";

const TIMECODE_RATES: [string, string][] = [
  ["24000/1001", "23.976"],
  ["24", "24"],
  ["25", "25"],
  ["30000/1001", "29.97"],
  ["30", "30"],
  ["48", "48"],
  ["50", "50"],
  ["60000/1001", "59.94"],
  ["60", "60"],
  ["120000/1001", "119.88"],
  ["120", "120"],
].map(([rate, words]) => [rate!, `${words} fps`]);

const UNITS = ["seconds", "milliseconds", "frames", "timecode", "none"];

export function TableReading({ item, production }: { item: Incoming; production: string }) {
  const report = item.inspection!.report as unknown as Report;
  const [open, setOpen] = useState(false);
  const { channels } = useCatalogue();
  const fix = (by: Record<string, unknown>) => void correct(production, item, by);
  const choice = (label: string, value: string, options: [string, string][], onPick: (v: string) => void) => (
    <Flex align="center" gap="2" py="0.5">
      <Text w="86px" flexShrink={0} color="dim" fontSize="sm">
        {label}
      </Text>
      <NativeSelect.Root size="xs">
        <NativeSelect.Field aria-label={label} value={value} onChange={(e) => onPick(e.target.value)}>
          {options.map(([v, t]) => (
            <option key={v} value={v}>
              {t}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Flex>
  );
  const headers = Object.keys(report.recipe.columns);
  const timeColumns = [
    ...new Set([
      report.recipe.time_column,
      report.recipe.timecode_column,
      ...headers.filter((h) => !report.recipe.columns[h]),
    ]),
  ].filter(Boolean);
  return (
    <Box mt="1">
      {item.inspection!.remembered && (
        <Text fontSize="sm" color="accent">
          Read as the last table with this header
        </Text>
      )}
      <TableReport report={report} />
      <Plain size="2xs" mt="1" onClick={() => setOpen(!open)}>
        {open ? "Close the reading" : "Correct the reading"}
      </Plain>
      {open && (
        <Box mt="2">
          {choice(
            "Time column",
            report.recipe.time_column,
            [["", "none"], ...timeColumns.map((c) => [c, c] as [string, string])],
            (v) => fix({ time_column: v, time_unit: v ? report.recipe.time_unit : "none" }),
          )}
          {choice(
            "Time is in",
            report.recipe.time_unit,
            UNITS.map((u) => [u, u]),
            (v) => fix({ time_unit: v }),
          )}
          {choice(
            "Rate",
            report.recipe.rate,
            [
              ["", "from the stamps"],
              ...["24", "25", "30", "50", "60", "120"].map((r) => [r, `${r} fps`] as [string, string]),
            ],
            (v) => fix({ rate: v }),
          )}
          {report.recipe.timecode_column &&
            choice(
              "Timecode at",
              report.recipe.timecode_rate,
              [
                ...(TIMECODE_RATES.some(([r]) => r === report.recipe.timecode_rate)
                  ? []
                  : [[report.recipe.timecode_rate, report.recipe.timecode_rate || "not known"] as [string, string]]),
                ...TIMECODE_RATES,
              ],
              (v) => fix({ timecode_rate: v }),
            )}
          {choice(
            "Values",
            report.recipe.percent ? "percent" : "weights",
            [
              ["weights", "0..1"],
              ["percent", "0..100"],
            ],
            (v) => fix({ percent: v === "percent" }),
          )}
          {choice(
            "Angles",
            report.recipe.radians ? "radians" : "degrees",
            [
              ["degrees", "degrees"],
              ["radians", "radians"],
            ],
            (v) => fix({ radians: v === "radians" }),
          )}
          <Text fontSize="sm" color="dim" mt="2">
            Columns
          </Text>
          <Box maxH="220px" overflowY="auto">
            {headers.map((h) => (
              <Flex key={h} align="center" gap="2" py="0.5">
                <Text flex="1" truncate fontSize="sm" title={h}>
                  {h}
                </Text>
                <NativeSelect.Root size="xs" w="150px">
                  <NativeSelect.Field
                    aria-label={`Channel of ${h}`}
                    value={report.recipe.columns[h]}
                    onChange={(e) => fix({ columns: { [h]: e.target.value } })}
                  >
                    <option value="">not read</option>
                    {channels.map((c) => (
                      <option key={c} value={c}>
                        {c}
                      </option>
                    ))}
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
              </Flex>
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}
