// What drives each target: in a table, or by dragging channels that were chosen in the region chart onto a target.
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type CastReport } from "../../api/client";
import { pathOf } from "../../api/changes";
import { useCatalogue } from "../../shared/catalogue";
import { isLight } from "../../shared/colourMode";
import { showUnits, useNames, useNaming } from "../../shared/naming";
import { colourOf } from "../../shared/regions";
import { Plain, Section, Toggle } from "../../drawer/parts";
import { edit, stopTrying, tryTarget, useOpen } from "../../workspace/workspace";
import { CombinationEditor, PartsEditor } from "./PartsEditor";
import { put, useSheet, type Parts } from "./sheet";

type Row = {
  target: string;
  parts: Parts;
  meshes: string[];
  how: string;
  confidence: number;
  guess?: { shape: string; confidence: number };
};
const HOW: Record<string, string> = {
  name: "by name",
  unit: "action unit",
  split: "a piece",
  shape: "by shape",
  mixture: "mixture",
  hand: "by hand",
  combined: "combination",
};
const FILTERS = ["all", "unmatched", "unsure", "by hand", "missing"] as const;
type Filter = (typeof FILTERS)[number];
const DRAGGED = "application/x-dynaface-shapes";
const UNSURE = 0.9;

export function MatchPanel({ report }: { report: CastReport }) {
  const { opened, selected } = useOpen("opened", "selected");
  const { shapes, regionOf } = useCatalogue();
  const sheet = useSheet();
  const named = useNames();
  const units = useNaming((s) => s.units);
  const guesses =
    useQuery({
      queryKey: ["study", opened!.character?.id, opened!.character?.version],
      queryFn: () => api.study(opened!.character!.id),
      enabled: !!opened!.character,
      staleTime: Infinity,
    }).data?.guesses ?? [];
  const [filter, setFilter] = useState<Filter>("all");
  const [search, setSearch] = useState("");
  const [open, setOpen] = useState("");
  const chips = selected.filter((s) => shapes.includes(s));

  const rows: Row[] = [
    ...report.matched.map((m) => ({ ...m })),
    ...Object.entries(report.combinations).map(([target, c]) => ({
      target,
      parts: Object.fromEntries(c.of.map((s) => [s, 1])),
      meshes: [],
      how: "combined",
      confidence: 1,
    })),
    ...report.unused.map((target) => ({
      target,
      parts: {},
      meshes: [],
      how: target in sheet.matches ? "hand" : "",
      confidence: 0,
      guess: guesses.find((g) => g.target === target),
    })),
  ];
  const fits: Record<Filter, (r: Row) => boolean> = {
    all: () => true,
    unmatched: (r) => !Object.keys(r.parts).length,
    unsure: (r) => !!r.guess || (r.how !== "" && r.how !== "hand" && r.confidence < UNSURE),
    "by hand": (r) => r.how === "hand" || r.how === "combined",
    missing: () => false,
  };
  const counts = Object.fromEntries(
    FILTERS.map((f) => [f, f === "missing" ? report.missing.length : rows.filter(fits[f]).length]),
  ) as Record<Filter, number>;
  const narrowed = filter === "all" && chips.length > 0 && chips.length < 12;
  const words = search.trim().toLowerCase();
  const shown = rows
    .filter(fits[filter])
    .filter(
      (r) =>
        !words ||
        r.target.toLowerCase().includes(words) ||
        Object.keys(r.parts).some((s) => named(s).toLowerCase().includes(words)),
    )
    .filter((r) => !narrowed || !!words || chips.some((c) => c in r.parts));

  const set = (target: string, parts: Parts | "automatic") => {
    const path = pathOf("matches", target);
    void edit("cast", parts === "automatic" ? `match ${target} by itself` : `match ${target}`, [
      parts === "automatic" ? { path, remove: true } : { path, value: parts },
    ]);
  };
  const drop = (target: string, event: React.DragEvent) => {
    event.preventDefault();
    const given = event.dataTransfer.getData(DRAGGED);
    if (given) set(target, { [given]: 1 });
  };
  return (
    <>
      <Section
        title="Targets"
        aside={
          <Toggle label="Action units" hint="Shows the FACS unit beside each shape" on={units} onChange={showUnits} />
        }
      >
        <Flex gap="1" mb="1.5" wrap="wrap">
          {FILTERS.map((f) => (
            <Plain
              key={f}
              size="2xs"
              aria-pressed={filter === f}
              bg={filter === f ? "bg.pressed" : undefined}
              onClick={() => setFilter(f)}
            >
              {counts[f]} {f}
            </Plain>
          ))}
        </Flex>
        <Input
          size="xs"
          mb="1.5"
          placeholder="Search targets and shapes"
          aria-label="Search targets"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        {chips.length > 0 && chips.length <= 16 && (
          <Flex gap="1" wrap="wrap" mb="1.5" aria-label="Chosen channels">
            {chips.map((c) => (
              <Box
                key={c}
                draggable
                cursor="grab"
                px="1.5"
                py="0.5"
                fontSize="xs"
                borderWidth="1px"
                borderColor="line"
                borderRadius="sm"
                bg="bg.raised"
                title="Drag it onto a target"
                onDragStart={(e: React.DragEvent) => {
                  e.dataTransfer.setData(DRAGGED, c);
                  e.dataTransfer.effectAllowed = "link";
                }}
              >
                <Box
                  as="span"
                  display="inline-block"
                  w="7px"
                  h="7px"
                  borderRadius="2px"
                  mr="1"
                  style={{ background: colourOf(regionOf[c] ?? "lips", isLight()) }}
                />
                {named(c)}
              </Box>
            ))}
          </Flex>
        )}
        {narrowed && (
          <Text fontSize="xs" color="dim" mb="1">
            Targets of the channels chosen in the region chart. Drag a channel onto a target to match it.
          </Text>
        )}
        <Box data-testid="matches" fontSize="sm">
          {filter === "missing"
            ? report.missing.map((s) => (
                <Text key={s} py="0.5">
                  {named(s)}
                  <Text as="span" color="dim">
                    {" "}
                    moves nothing
                  </Text>
                </Text>
              ))
            : shown.map((row) => (
                <Box
                  key={row.target}
                  borderBottomWidth="1px"
                  borderColor="line"
                  data-target={row.target}
                  onDragOver={(e: React.DragEvent) => {
                    if (e.dataTransfer.types.includes(DRAGGED)) e.preventDefault();
                  }}
                  onDrop={(e: React.DragEvent) => drop(row.target, e)}
                >
                  <Flex
                    align="center"
                    gap="2"
                    py="1"
                    cursor="pointer"
                    role="button"
                    tabIndex={0}
                    aria-expanded={open === row.target}
                    aria-label={`Target ${row.target}`}
                    onClick={() => setOpen(open === row.target ? "" : row.target)}
                    onKeyDown={(e: React.KeyboardEvent) => {
                      if (e.key === "Enter") setOpen(open === row.target ? "" : row.target);
                    }}
                    onPointerEnter={() => tryTarget(row.target, 1)}
                    onPointerLeave={stopTrying}
                    title={
                      row.meshes.length
                        ? `On ${row.meshes.join(", ")}; shown whole while you point at it`
                        : "Shown whole while you point at it"
                    }
                  >
                    <Text flex="1" minW="0" truncate>
                      {row.target}
                    </Text>
                    <Text textAlign="right" maxW="56%" truncate color={Object.keys(row.parts).length ? "ink" : "dim"}>
                      {Object.keys(row.parts).length
                        ? Object.entries(row.parts)
                            .map(([s, g]) => `${named(s)}${g === 1 ? "" : ` × ${g}`}`)
                            .join(row.how === "combined" ? " and " : " + ")
                        : row.guess
                          ? `perhaps ${row.guess.shape}`
                          : "left alone"}
                    </Text>
                  </Flex>
                  {open === row.target && (
                    <Box pb="2">
                      <Text fontSize="xs" color="dim" mb="1">
                        {row.how ? HOW[row.how] : "no match found"}
                        {row.confidence > 0 && row.confidence < 1 ? `, ${Math.round(row.confidence * 100)} % sure` : ""}
                        {row.meshes.length ? `, on ${row.meshes.join(", ")}` : ""}
                      </Text>
                      {row.guess && (
                        <Plain size="2xs" mb="1" onClick={() => set(row.target, { [row.guess!.shape]: 1 })}>
                          Take {row.guess.shape} ({Math.round(row.guess.confidence * 100)} %)
                        </Plain>
                      )}
                      {sheet.combinations[row.target] ? (
                        <CombinationEditor target={row.target} sheet={sheet} />
                      ) : (
                        <PartsEditor
                          target={row.target}
                          parts={row.parts}
                          byHand={row.target in sheet.matches}
                          sheet={sheet}
                          onSet={(p) => set(row.target, p)}
                        />
                      )}
                    </Box>
                  )}
                </Box>
              ))}
          {filter !== "missing" && !shown.length && (
            <Text color="dim">
              {filter === "unmatched"
                ? "Every target of the character is driven."
                : filter === "unsure"
                  ? "Every match is sure."
                  : "Nothing here. Choose other channels in the region chart."}
            </Text>
          )}
          {filter === "missing" && !report.missing.length && <Text color="dim">Every shape moves something.</Text>}
        </Box>
      </Section>
      {report.eyeJoints.length > 0 && (
        <Section title="Eyes">
          <Toggle
            label="Eyes turn by joints"
            hint={`Joints ${report.eyeJoints.join(", ")}; off: by the look shapes`}
            on={sheet.eyes === "joints"}
            onChange={(on) =>
              void put(sheet, on ? "eyes by joints" : "eyes by shapes", { eyes: on ? "joints" : "shapes" })
            }
          />
        </Section>
      )}
    </>
  );
}
