// What a solve says of its markers: how far each is from where it should be, the worst first, what was put right.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api } from "../../api/client";
import { REGIONS } from "../../shared/regions";
import { useCatalogue } from "../../shared/catalogue";
import { Plain, Section } from "../../drawer/parts";
import { changeBeside, useLayout, useMarkers, without } from "../../markers/layouts";
import { clock } from "../../playback/clock";
import { addPainter } from "../../timekit/frameLoop";

type Report = { label: string; typical: number; worst: number; seen: number };
type Repair = { kind: string; label: string; other: string; first: number; last: number };
export type MarkersReport = {
  labels: string[];
  residual: number;
  worst: Report[];
  repairs: Repair[];
  repaired: number;
};

const WORDS: Record<string, (r: Repair) => string> = {
  swap: (r) => `had the name of ${r.other}`,
  unnamed: (r) => `was found as ${r.other}`,
  slip: () => "slipped, left out",
  gap: () => "filled",
};
const SHOWN = 8;

export function MarkerReview({
  source,
  report,
  busy,
  onSolve,
}: {
  source: string;
  report: MarkersReport;
  busy: boolean;
  onSolve: () => void;
}) {
  const { layout, body } = useLayout();
  const { selected } = useMarkers();
  const shown = selected && report.labels.includes(selected) ? selected : report.worst[0]?.label;
  const off = new Set(Object.keys(body?.off ?? {}));
  const waiting =
    report.labels.some((l) => off.has(l)) ||
    (body ? [...Object.keys(body.places)].some((l) => !off.has(l) && !report.labels.includes(l)) : false);
  const turn = (label: string) =>
    layout &&
    body &&
    void changeBeside(layout, `${off.has(label) ? "use" : "leave out"} ${label}`, body, {
      off: off.has(label) ? without(body.off, label) : { ...body.off, [label]: true },
    });
  const listed = [...report.worst.slice(0, SHOWN), ...report.worst.slice(SHOWN).filter((r) => r.label === selected)];
  return (
    <Section
      title="Markers in this solve"
      aside={
        <Text fontSize="sm" color="dim">
          typically {report.residual.toFixed(2)} mm off
        </Text>
      }
    >
      {shown && <Residual source={source} label={shown} />}
      <Flex fontSize="xs" color="dim" mt="2" gap="2">
        <Text flex="1">worst first</Text>
        <Text w="52px" textAlign="right">
          typical
        </Text>
        <Text w="52px" textAlign="right">
          at worst
        </Text>
        <Text w="62px" />
      </Flex>
      {listed.map((r) => (
        <Flex
          key={r.label}
          align="center"
          gap="2"
          py="0.5"
          fontSize="sm"
          bg={r.label === shown ? "bg.raised" : undefined}
          opacity={off.has(r.label) ? 0.55 : 1}
        >
          <Box
            as="button"
            flex="1"
            minW="0"
            textAlign="left"
            cursor="pointer"
            onClick={() => useMarkers.setState({ selected: r.label })}
          >
            <Text truncate>
              {r.label}{" "}
              <Text as="span" color="dim">
                {body?.places[r.label] ?? ""}
              </Text>
            </Text>
          </Box>
          <Text w="52px" textAlign="right" fontFamily="number">
            {r.typical.toFixed(2)}
          </Text>
          <Text w="52px" textAlign="right" fontFamily="number">
            {r.worst.toFixed(1)} mm
          </Text>
          <Plain
            size="2xs"
            w="62px"
            aria-pressed={off.has(r.label)}
            aria-label={`${off.has(r.label) ? "Use" : "Leave out"} ${r.label}`}
            onClick={() => turn(r.label)}
          >
            {off.has(r.label) ? "use" : "leave out"}
          </Plain>
        </Flex>
      ))}
      {waiting && (
        <Flex mt="2" align="center" gap="2">
          <Text flex="1" fontSize="sm" color="accent">
            The layout has changed since this solve.
          </Text>
          <Plain size="2xs" disabled={busy} onClick={onSolve}>
            Solve again
          </Plain>
        </Flex>
      )}
      <Repairs report={report} />
    </Section>
  );
}

function Repairs({ report }: { report: MarkersReport }) {
  const names = report.repairs.filter((r) => r.kind !== "gap");
  const gaps = report.repairs.filter((r) => r.kind === "gap");
  if (!report.repaired)
    return (
      <Text mt="2" fontSize="sm" color="dim">
        No name was changed and no gap had to be filled.
      </Text>
    );
  return (
    <Box mt="2.5" data-testid="repairs">
      <Text fontSize="sm">
        {names.length} stretches put right, {gaps.length} gaps filled
        {report.repaired > report.repairs.length
          ? ` (the first ${report.repairs.length} of ${report.repaired} are kept)`
          : ""}
        .
      </Text>
      <Box maxH="110px" overflowY="auto" mt="1">
        {[...names, ...gaps].slice(0, 60).map((r) => (
          <Box
            as="button"
            key={`${r.kind}${r.label}${r.first}${r.other}`}
            display="block"
            w="100%"
            textAlign="left"
            fontSize="xs"
            cursor="pointer"
            py="1px"
            onClick={() => {
              clock.seekFrame(r.first);
              useMarkers.setState({ selected: r.label });
            }}
          >
            <Text truncate>
              <Text as="span" color="dim" fontFamily="number">
                {r.first}–{r.last}
              </Text>{" "}
              {r.label} {WORDS[r.kind]?.(r) ?? r.kind}
            </Text>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

/** Millimetres between where the solve says that a marker is and where it was seen, over time; a click goes there. */
function Residual({ source, label }: { source: string; label: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const made = useQuery({
    queryKey: ["solved markers", source],
    queryFn: () => api.solvedMarkers(source),
    staleTime: Infinity,
    retry: false,
  }).data;
  const table = made?.arrays.residual;
  const frames = table?.shape[0] ?? 0;
  useEffect(() => {
    if (!table) return;
    const count = table.shape[1]!;
    const column = (made!.head.labels as string[]).indexOf(label);
    const values = Float32Array.from({ length: table.shape[0]! }, (_, f) => table.data[f * count + column]! * 1000);
    const top = Math.max(2, ...values.filter((v) => v === v));
    const painter = addPainter(() => {
      const element = canvas.current;
      const c = element?.getContext("2d");
      if (!element || !c) return;
      const [w, h] = [element.width, element.height];
      c.clearRect(0, 0, w, h);
      const style = getComputedStyle(element);
      c.fillStyle = style.color;
      for (let x = 0; x < w; x++) {
        const from = Math.floor((x / w) * values.length);
        let high = NaN;
        for (let f = from; f < Math.max(from + 1, Math.floor(((x + 1) / w) * values.length)); f++)
          if (!(high > values[f]!) && values[f]! === values[f]!) high = values[f]!;
        if (high !== high) {
          c.globalAlpha = 0.25;
          c.fillRect(x, h - 3, 1, 3);
        } else {
          c.globalAlpha = 0.85;
          c.fillRect(x, h - Math.max(1, (high / top) * (h - 2)), 1, Math.max(1, (high / top) * (h - 2)));
        }
      }
      c.globalAlpha = 1;
      c.fillRect(Math.round((clock.frame / Math.max(values.length - 1, 1)) * (w - 1)), 0, 1, h);
    });
    const off = clock.onMove(painter.invalidate);
    return () => {
      off();
      painter.remove();
    };
  }, [table, made, label]);
  return (
    <Box>
      <Flex justify="space-between">
        <Text fontSize="sm">
          <b>{label}</b>
        </Text>
        <Text fontSize="xs" color="dim">
          mm off over time
        </Text>
      </Flex>
      <Box bg="bg.lane" borderRadius="2px" h="44px">
        <canvas
          ref={canvas}
          width={300}
          height={44}
          style={{
            width: "100%",
            height: "44px",
            display: "block",
            cursor: "pointer",
            color: "var(--chakra-colors-accent)",
          }}
          aria-label={`Residual of ${label}`}
          onClick={(e) =>
            clock.seekFrame(Math.round((e.nativeEvent.offsetX / e.currentTarget.clientWidth) * Math.max(frames - 1, 0)))
          }
        />
      </Box>
    </Box>
  );
}

/** How well the layout lets each shape be seen, region by region. */
export function Seen() {
  const { study } = useLayout();
  const { shapes, regionOf } = useCatalogue();
  if (!study) return null;
  return (
    <Section title="What the layout sees">
      {REGIONS.map(({ name }) => {
        const own = shapes.filter((s) => regionOf[s] === name);
        const by = (word: string) => own.filter((s) => study.seen[s] === word);
        const [weakly, not] = [by("weakly"), by("not seen")];
        if (!own.length) return null;
        return (
          <Box key={name} py="0.5">
            <Flex justify="space-between" fontSize="sm">
              <Text>{name}</Text>
              <Text color="dim">
                {by("well").length} of {own.length} well{weakly.length ? `, ${weakly.length} weakly` : ""}
                {not.length ? `, ${not.length} not` : ""}
              </Text>
            </Flex>
            {not.length > 0 && not.length < own.length && (
              <Text fontSize="xs" color="dim">
                left alone: {not.join(", ")}
              </Text>
            )}
            {weakly.length > 0 && (
              <Text fontSize="xs" color="dim">
                weakly: {weakly.join(", ")}
              </Text>
            )}
          </Box>
        );
      })}
      <Text mt="1" fontSize="sm" color="dim">
        Shapes that the markers cannot tell stay at 0.
      </Text>
    </Section>
  );
}
