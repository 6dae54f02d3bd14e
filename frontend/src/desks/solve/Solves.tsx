// The solves so far: one is chosen, another can be laid under it in the deck for comparison.
import { Flex, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import type { SolveRow } from "../../api/client";
import { Fact, Plain, Section } from "../../drawer/parts";
import { difference } from "../../workspace/difference";
import { compareWith, edit, useOpen } from "../../workspace/workspace";

export function Solves({ solves }: { solves: SolveRow[] }) {
  const { opened, against } = useOpen("opened", "against");
  const chosen = opened!.sources.curves?.id;
  return (
    <Section
      title="Solves"
      aside={
        <Text fontSize="sm" color="dim">
          click one to choose it
        </Text>
      }
    >
      {solves.map((s) => (
        <Made
          key={s.source}
          solve={s}
          chosen={s.source === chosen}
          against={against?.source === s.source}
          comparable={!!chosen && s.source !== chosen}
        />
      ))}
      {against && <Compared />}
    </Section>
  );
}

function Made({
  solve,
  chosen,
  against,
  comparable,
}: {
  solve: SolveRow;
  chosen: boolean;
  against: boolean;
  comparable: boolean;
}) {
  return (
    <Flex
      align="stretch"
      mb="1"
      borderWidth="1px"
      borderRadius="sm"
      borderColor={chosen ? "accent" : "line"}
      bg={chosen ? "bg.raised" : undefined}
    >
      <Flex
        as="button"
        flex="1"
        minW="0"
        direction="column"
        align="stretch"
        textAlign="left"
        px="2"
        py="1.5"
        cursor="pointer"
        aria-pressed={chosen}
        aria-label={`Choose ${solve.name}`}
        onClick={() => {
          if (!chosen) void edit("take", `choose ${solve.name}`, [{ path: "sources/curves", value: solve.source }]);
        }}
      >
        <Flex justify="space-between" gap="2">
          <Text fontWeight="600" whiteSpace="nowrap">
            {solve.name}
          </Text>
          <Text fontSize="sm" color="dim" truncate>
            {solve.made.slice(0, 16).replace("T", " ")}, {solve.by}
          </Text>
        </Flex>
        <Fact name={solve.card || "no card"}>
          {solve.frames} frames, sure {(solve.confidence * 100).toFixed(0)}%
        </Fact>
        {(solve.tacks > 0 || solve.moves !== "head") && (
          <Text fontSize="sm" color="dim">
            {[
              solve.tacks ? `${solve.tacks} tacks` : "",
              solve.moves === "camera" ? "the camera moves" : solve.moves === "neither" ? "head mount" : "",
            ]
              .filter(Boolean)
              .join(", ")}
          </Text>
        )}
        {solve.unlike && (
          <Text fontSize="sm" color="accent">
            {solve.card
              ? "The face hardly fits this card: another performer's?"
              : "Hardly anything fits the neutral frames: too dark or blurred?"}
          </Text>
        )}
        {(solve.unsure > 0 || solve.lost > 0) && (
          <Text fontSize="sm" color="accent">
            {solve.unsure} frames unsure{solve.lost ? `, face lost in ${solve.lost}` : ""}
          </Text>
        )}
      </Flex>
      {comparable && (
        <Plain
          size="2xs"
          m="1.5"
          aria-pressed={against}
          borderColor={against ? "accent" : "line"}
          aria-label={`Compare with ${solve.name}`}
          title="Shade the difference to this solve in the deck"
          onClick={() => void compareWith(against ? null : { source: solve.source, name: solve.name })}
        >
          {against ? "comparing" : "compare"}
        </Plain>
      )}
    </Flex>
  );
}

/** How far the chosen solve and the other are apart on the selected channels. */
function Compared() {
  const { against, curves, selected } = useOpen("against", "curves", "selected");
  const rows = useMemo(() => {
    if (!against || !curves || against.raw.data.length !== curves.raw.data.length) return [];
    return selected.slice(0, 5).flatMap((name) => {
      const column = curves.channels.indexOf(name);
      return column < 0
        ? []
        : [{ name, ...difference(against.raw.data, curves.raw.data, curves.channels.length, column, curves.rate) }];
    });
  }, [against, curves, selected]);
  return (
    <Flex direction="column" mt="2" data-testid="compared">
      <Text fontSize="sm" color="dim">
        {against!.name} to the chosen one, as shaded in the deck:
      </Text>
      {rows.map((r) => (
        <Fact key={r.name} name={r.name}>
          RMS {r.rms.toFixed(3)}, peak {r.peak.toFixed(2)}
          <Text fontSize="sm" color="dim">
            jitter {r.jitterBefore.toFixed(0)} → {r.jitterAfter.toFixed(0)} /s³
          </Text>
        </Fact>
      ))}
      {!rows.length && (
        <Text fontSize="sm" color="dim">
          Choose channels in the region chart.
        </Text>
      )}
    </Flex>
  );
}
