// How likely the chosen solve is right, region by region along the clip; a click goes to the worst frame.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";
import { api } from "../../api/client";
import { isLight } from "../../shared/colourMode";
import { colourOf, REGIONS } from "../../shared/regions";
import { Plain, Section } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { spansBelow } from "./footageJobs";

const SURE = 0.5;

export function Confidence({ source }: { source: string }) {
  const made = useQuery({
    queryKey: ["confidence", source],
    queryFn: () => api.confidence(source),
    staleTime: Infinity,
    retry: false,
  }).data;
  const rows = useMemo(() => {
    const table = made?.arrays.confidence;
    if (!table) return [];
    const [frames, width] = table.shape as [number, number];
    return (made.head.regions as string[])
      .map((region, i) => ({
        region,
        values: Float32Array.from({ length: frames }, (_, f) => table.data[f * width + i]!),
      }))
      .filter((r) => r.region !== "tongue");
  }, [made]);
  if (!rows.length) return null;
  const believed = rows.filter((r) => r.values.some((v) => v > 0));
  const worst = believed
    .flatMap((r) => spansBelow(r.values, SURE).map(([a, b]) => ({ region: r.region, a, b })))
    .sort((x, y) => y.b - y.a - (x.b - x.a));
  const next = () => {
    const after = worst.map((w) => w.a).sort((x, y) => x - y);
    clock.seekFrame(after.find((f) => f > clock.frame) ?? after[0]!);
  };
  return (
    <Section
      title="How sure"
      aside={
        worst.length > 0 && (
          <Plain size="2xs" onClick={next}>
            Next unsure span
          </Plain>
        )
      }
    >
      {rows.map((r) => (
        <Strip key={r.region} {...r} />
      ))}
      <Text mt="1" fontSize="sm" color="dim">
        {worst.length
          ? `${worst.length} ${worst.length === 1 ? "span" : "spans"} below 50%: what is there may be wrong. Click a strip to go there.`
          : "No span below 50%."}
        {believed.length < rows.length
          ? ` Nothing speaks of the ${rows
              .filter((r) => !believed.includes(r))
              .map((r) => r.region)
              .join(", ")}.`
          : ""}
      </Text>
    </Section>
  );
}

function Strip({ region, values }: { region: string; values: Float32Array }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current!;
    const c = element.getContext("2d")!;
    const [w, h] = [element.width, element.height];
    c.clearRect(0, 0, w, h);
    c.fillStyle = colourOf(region, isLight());
    for (let x = 0; x < w; x++) {
      const from = Math.floor((x / w) * values.length);
      const to = Math.max(from + 1, Math.floor(((x + 1) / w) * values.length));
      let low = 1;
      for (let f = from; f < to; f++) low = Math.min(low, values[f]!);
      c.globalAlpha = low < SURE ? 0.35 : 0.9;
      c.fillRect(x, h - Math.max(low * h, 1), 1, Math.max(low * h, 1));
    }
  }, [region, values]);
  const seen = values.some((v) => v > 0);
  const letter = REGIONS.find((r) => r.name === region)?.letter ?? "";
  return (
    <Flex align="center" gap="2" py="0.5">
      <Text w="66px" fontSize="sm">
        <Text as="span" color="dim">
          {letter}
        </Text>{" "}
        {region}
      </Text>
      <Box flex="1" h="14px" bg="bg.lane" borderRadius="2px" overflow="hidden">
        <canvas
          ref={canvas}
          width={200}
          height={14}
          style={{ width: "100%", height: "14px", cursor: "pointer", display: "block" }}
          aria-label={`Confidence of the ${region}`}
          onClick={(e) =>
            clock.seekFrame(Math.round((e.nativeEvent.offsetX / e.currentTarget.clientWidth) * (values.length - 1)))
          }
        />
      </Box>
      <Text w="34px" textAlign="right" fontSize="xs" color="dim">
        {seen ? `${Math.round((values.reduce((a, b) => a + b, 0) / values.length) * 100)}%` : "–"}
      </Text>
    </Flex>
  );
}
