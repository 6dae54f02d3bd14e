// How strongly the character answers: measured first, then by hand for ways, shapes, directions and contacts.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { pathOf } from "../../api/changes";
import type { CastReport } from "../../api/client";
import { useCatalogue } from "../../shared/catalogue";
import { isLight } from "../../shared/colourMode";
import { useNames } from "../../shared/naming";
import { colourOf } from "../../shared/regions";
import { AmountField, Plain, Section } from "../../drawer/parts";
import { useRegions } from "../../workspace/regions";
import { edit, preview, tryTarget, stopTrying, useOpen } from "../../workspace/workspace";
import { ContactSection } from "./ContactSection";
import { MeasuredSection } from "./MeasuredSection";
import { dragNumber, put, putNumber, response, useSheet } from "./sheet";

const MAX_SHAPES = 6;

export function StrengthPanel({ report }: { report: CastReport }) {
  const { selected } = useOpen("selected");
  const { regionOf, shapes, ways } = useCatalogue();
  const sheet = useSheet();
  const named = useNames();
  const [open, setOpen] = useState("");
  const [trying, setTrying] = useState(false);
  const light = isLight();
  const regions = useRegions();
  const angle = (c: string) => /^(head|gaze)/.test(c);
  const picked = selected.filter((s) => shapes.includes(s) || angle(s));
  const touched = [
    ...Object.keys(sheet.shapeStrength),
    ...Object.keys(sheet.bend),
    ...Object.keys(sheet.shapeOffset),
    ...Object.keys(sheet.shapeLimit),
    ...Object.keys(sheet.below),
  ];
  const shown = [...new Set([...picked.slice(0, MAX_SHAPES), ...touched])];
  return (
    <>
      <MeasuredSection />
      <Section title="By region, each way">
        {regions.map(({ name }) => {
          const own = Object.keys(ways).filter((w) => w.startsWith(`${name} `));
          const isOpen = open === name;
          const set = own.filter((w) => (sheet.wayStrength[w] ?? 1) !== 1).length;
          return (
            <Box key={name}>
              <Flex align="center">
                <Box flex="1" minW="0">
                  <AmountField
                    label={name}
                    mark={colourOf(name, light)}
                    value={sheet.regionStrength[name] ?? 1}
                    rest={1}
                    low={0}
                    high={2}
                    step={0.01}
                    unit="×"
                    onDrag={(v) => dragNumber("regionStrength", name, v)}
                    onCommit={(v) => void putNumber(`strength of the ${name}`, "regionStrength", name, v, 1)}
                  />
                </Box>
                <Box
                  as="button"
                  w="18px"
                  ml="-16px"
                  flexShrink={0}
                  textAlign="center"
                  color={set ? "accent" : "dim"}
                  cursor={own.length > 1 ? "pointer" : "default"}
                  visibility={own.length > 1 ? "visible" : "hidden"}
                  aria-label={`Ways of the ${name}`}
                  aria-expanded={isOpen}
                  onClick={() => setOpen(isOpen ? "" : name)}
                >
                  {isOpen ? "▾" : "▸"}
                </Box>
              </Flex>
              {isOpen && (
                <Box pl="3" borderLeftWidth="2px" borderColor="line" mb="1">
                  {own.map((w) => (
                    <AmountField
                      key={w}
                      label={w.slice(name.length + 1)}
                      value={sheet.wayStrength[w] ?? 1}
                      rest={1}
                      low={0}
                      high={2}
                      step={0.01}
                      unit="×"
                      hint={ways[w]!.join(", ")}
                      onDrag={(v) => dragNumber("wayStrength", w, v)}
                      onCommit={(v) => void putNumber(`${w}`, "wayStrength", w, v, 1)}
                    />
                  ))}
                </Box>
              )}
            </Box>
          );
        })}
      </Section>
      <Section title="By channel">
        {!shown.length && (
          <Text color="dim" fontSize="sm">
            Choose channels in the region chart.
          </Text>
        )}
        {shown.map((name) => {
          const isOpen = open === name;
          const limit = sheet.shapeLimit[name] ?? [0, 1];
          const keepLimit = (next: [number, number]) =>
            void edit("cast", `limits of ${name}`, [
              next[0] === 0 && next[1] === 1
                ? { path: pathOf("shapeLimit", name), remove: true }
                : { path: pathOf("shapeLimit", name), value: next },
            ]);
          return (
            <Box key={name}>
              <Flex align="center">
                <Box flex="1" minW="0">
                  <AmountField
                    label={named(name)}
                    mark={colourOf(regionOf[name] ?? "lips", light)}
                    value={sheet.shapeStrength[name] ?? 1}
                    rest={1}
                    low={0}
                    high={3}
                    step={0.01}
                    unit="×"
                    hint={name}
                    onDrag={(v) => dragNumber("shapeStrength", name, v)}
                    onCommit={(v) => void putNumber(`strength of ${name}`, "shapeStrength", name, v, 1)}
                  />
                </Box>
                <Box
                  as="button"
                  w="18px"
                  ml="-16px"
                  flexShrink={0}
                  textAlign="center"
                  color="dim"
                  cursor="pointer"
                  aria-label={`More of ${name}`}
                  aria-expanded={isOpen}
                  onClick={() => setOpen(isOpen ? "" : name)}
                >
                  {isOpen ? "▾" : "▸"}
                </Box>
              </Flex>
              {isOpen &&
                (angle(name) ? (
                  <Box pl="3" borderLeftWidth="2px" borderColor="line" mb="1">
                    <AmountField
                      label="Below 0"
                      value={sheet.below[name] ?? 1}
                      rest={1}
                      low={0}
                      high={3}
                      step={0.01}
                      unit="×"
                      hint="What the other way is weakened or strengthened by"
                      onDrag={(v) => dragNumber("below", name, v)}
                      onCommit={(v) => void putNumber(`${name} below rest`, "below", name, v, 1)}
                    />
                  </Box>
                ) : (
                  <Box pl="3" borderLeftWidth="2px" borderColor="line" mb="1">
                    <AmountField
                      label="Response"
                      value={sheet.bend[name] ?? 0}
                      rest={0}
                      low={-2}
                      high={2}
                      step={0.05}
                      hint="Above 0 small weights do more, below 0 less"
                      onDrag={(v) => dragNumber("bend", name, v)}
                      onCommit={(v) => void putNumber(`response of ${name}`, "bend", name, v, 0)}
                    />
                    <AmountField
                      label="Offset"
                      value={sheet.shapeOffset[name] ?? 0}
                      rest={0}
                      low={-0.5}
                      high={0.5}
                      step={0.005}
                      onDrag={(v) => dragNumber("shapeOffset", name, v)}
                      onCommit={(v) => void putNumber(`offset of ${name}`, "shapeOffset", name, v, 0)}
                    />
                    <AmountField
                      label="Not below"
                      value={limit[0]}
                      rest={0}
                      low={-0.5}
                      high={0.95}
                      step={0.01}
                      onDrag={() => undefined}
                      onCommit={(v) => keepLimit([Math.min(v, limit[1] - 0.01), limit[1]])}
                    />
                    <AmountField
                      label="Not above"
                      value={limit[1]}
                      rest={1}
                      low={0.05}
                      high={2}
                      step={0.01}
                      onDrag={() => undefined}
                      onCommit={(v) => keepLimit([limit[0], Math.max(v, limit[0] + 0.01)])}
                    />
                    <Response
                      bend={sheet.bend[name] ?? 0}
                      gain={sheet.shapeStrength[name] ?? 1}
                      offset={sheet.shapeOffset[name] ?? 0}
                      limit={sheet.shapeLimit[name] ?? null}
                    />
                  </Box>
                ))}
            </Box>
          );
        })}
      </Section>
      <Section title="Directions of travel">
        {[
          ["jaw aside", "Turns the opening jaw to the character's left"],
          ["jaw forward", "Turns the opening jaw to the front"],
          ["lips left", "Turns the left corner's travel upward"],
          ["lips right", "Turns the right corner's travel upward"],
        ].map(([name, hint]) => (
          <AmountField
            key={name}
            label={name!}
            value={sheet.directions[name!] ?? 0}
            rest={0}
            low={-30}
            high={30}
            step={0.5}
            unit="deg"
            hint={hint}
            onDrag={(v) => dragNumber("directions", name!, v)}
            onCommit={(v) => void putNumber(`direction: ${name}`, "directions", name!, v, 0)}
          />
        ))}
      </Section>
      <ContactSection sheet={sheet} />
      <Section title="Limits of every target">
        <AmountField
          label="Not above"
          value={sheet.high}
          rest={1}
          low={0.5}
          high={2}
          step={0.01}
          hint="The last limit, once, for all targets"
          onDrag={(v) => void preview({ cast: [{ path: "high", value: v }] })}
          onCommit={(v) => void put(sheet, "upper limit", { high: v })}
        />
        <AmountField
          label="Not below"
          value={sheet.low}
          rest={0}
          low={-1}
          high={0.4}
          step={0.01}
          onDrag={(v) => void preview({ cast: [{ path: "low", value: v }] })}
          onCommit={(v) => void put(sheet, "lower limit", { low: v })}
        />
      </Section>
      <Section
        title="Move the rig by hand"
        aside={
          <Plain
            size="2xs"
            aria-pressed={trying}
            onClick={() => {
              setTrying(!trying);
              stopTrying();
            }}
          >
            {trying ? "Stop" : "Begin"}
          </Plain>
        }
      >
        {trying ? (
          <ByHand report={report} />
        ) : (
          <Text color="dim" fontSize="sm">
            Moves the targets of the chosen shapes, whatever the take does. Nothing of it is kept.
          </Text>
        )}
      </Section>
    </>
  );
}

function ByHand({ report }: { report: CastReport }) {
  const { selected, tried } = useOpen("selected", "tried");
  const rows = report.matched.filter((m) => Object.keys(m.parts).some((s) => selected.includes(s))).slice(0, 10);
  if (!rows.length)
    return (
      <Text color="dim" fontSize="sm">
        Choose shapes in the region chart.
      </Text>
    );
  return (
    <>
      {rows.map((m) => (
        <AmountField
          key={m.target}
          label={m.target}
          value={tried[m.target] ?? 0}
          low={0}
          high={1}
          step={0.01}
          onDrag={(v) => tryTarget(m.target, v)}
          onCommit={(v) => tryTarget(m.target, v)}
        />
      ))}
    </>
  );
}

/** The plot of what comes out for what goes in. */
function Response({
  bend,
  gain,
  offset,
  limit,
}: {
  bend: number;
  gain: number;
  offset: number;
  limit: [number, number] | null;
}) {
  const [wide, size] = [150, 62];
  const out = (x: number) =>
    Math.min(Math.max(response(gain * x, bend) + offset, limit ? limit[0] : -1), limit ? limit[1] : 2);
  const line = Array.from(
    { length: 25 },
    (_, i) =>
      `${((i / 24) * wide).toFixed(1)},${(size - Math.min(Math.max(out(i / 24), 0), 1.25) * size * 0.8).toFixed(1)}`,
  ).join(" ");
  return (
    <Flex align="end" gap="2" mt="1" mb="1.5">
      <svg
        width={wide}
        height={size}
        role="img"
        aria-label="Response"
        style={{ flexShrink: 0, background: "var(--chakra-colors-bg-deck)", borderRadius: 2 }}
      >
        <line x1="0" y1={size} x2={wide} y2={size * 0.2} stroke="var(--chakra-colors-line)" strokeDasharray="2 3" />
        <polyline points={line} fill="none" stroke="var(--chakra-colors-accent)" strokeWidth="1.6" />
      </svg>
      <Text fontSize="xs" color="dim">
        What comes out for 0 to 1 going in; dashed is 1:1.
      </Text>
    </Flex>
  );
}
