// What is set by hand, frame by frame: kept with the take and honoured by every later solve.
import { Box, Flex, IconButton, Input, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useState } from "react";
import { freshId } from "../../api/changes";
import { Plain, Section } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useClock } from "../../playback/useClock";
import { sameAs, SPAN, type Tack } from "../../viewer/tacks";
import { edit, useOpen, type Curves } from "../../workspace/workspace";

export function Tacks({
  first,
  unsolved,
  busy,
  onSolve,
}: {
  first: number;
  unsolved: boolean;
  busy: boolean;
  onSolve: () => void;
}) {
  const { opened, curves, selected } = useOpen("opened", "curves", "selected");
  const { tacks } = opened!.take.body;
  const rows = Object.entries(tacks).sort((a, b) => a[1].frame - b[1].frame);
  const shape = selected.find((name) => curves?.channels.includes(name) && !/^(head|gaze)/.test(name));
  const keep = (label: string, name: string, tack: Tack) =>
    void edit("take", label, [{ path: `tacks/${name}`, value: tack }]);
  const set = (at: number, value: number) => {
    const tack: Tack = { frame: at, span: SPAN, shape: shape!, value };
    keep(`tack ${shape} at frame ${at}`, sameAs(tacks, tack) ?? freshId("p"), tack);
  };
  return (
    <Section
      title="Tacks"
      aside={
        rows.length > 0 && (
          <Plain size="2xs" disabled={busy} onClick={onSolve}>
            Solve again with tacks
          </Plain>
        )
      }
    >
      {shape && curves && <AtPlayhead shape={shape} curves={curves} first={first} onCommit={set} />}
      {rows.map(([name, tack]) => {
        const what = "shape" in tack ? `${tack.shape} = ${tack.value.toFixed(2)}` : `point ${tack.point}`;
        return (
          <Flex key={name} align="center" gap="1" py="0.5" data-testid="tack">
            <Box
              as="button"
              flex="1"
              textAlign="left"
              fontSize="sm"
              truncate
              cursor="pointer"
              title="Go there"
              onClick={() => clock.seekFrame(tack.frame - first)}
            >
              <Text as="span" color="dim">
                {tack.frame}
              </Text>{" "}
              {what}
            </Box>
            <Span
              value={tack.span}
              label={`Span of tack ${name}`}
              onCommit={(span) => keep(`span of a tack at frame ${tack.frame}`, name, { ...tack, span })}
            />
            <IconButton
              aria-label={`Take tack ${name} off`}
              size="2xs"
              variant="ghost"
              onClick={() =>
                void edit("take", `take a tack off frame ${tack.frame}`, [{ path: `tacks/${name}`, remove: true }])
              }
            >
              <X size={12} />
            </IconButton>
          </Flex>
        );
      })}
      <Text mt="1" fontSize="sm" color={unsolved ? "accent" : "dim"}>
        {unsolved
          ? "The chosen solve was made before these tacks. Solve again to have them in it; what was measured is kept, so it takes a moment."
          : rows.length
            ? "A tack fades over its span of frames, each way."
            : "Type a weight to hold it at the playhead, or drag a tracked point in the footage (the tack above the picture). " +
              "Every later solve keeps to it."}
      </Text>
    </Section>
  );
}

function AtPlayhead({
  shape,
  curves,
  first,
  onCommit,
}: {
  shape: string;
  curves: Curves;
  first: number;
  onCommit: (at: number, value: number) => void;
}) {
  const { frame } = useClock();
  const held = Math.min(frame, curves.frames - 1);
  const value = curves.raw.data[held * curves.channels.length + curves.channels.indexOf(shape)]!;
  return (
    <Weight
      key={`${shape} ${held}`}
      label={`${shape} at ${held + first}`}
      value={value}
      onCommit={(v) => onCommit(held + first, v)}
    />
  );
}

function Weight({ label, value, onCommit }: { label: string; value: number; onCommit: (v: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = parseFloat((typed ?? "").replace(",", "."));
    setTyped(null);
    if (isWeight(next)) onCommit(next);
  };
  return (
    <Flex align="center" gap="2" py="0.5" mb="1">
      <Text flex="1" fontSize="sm" color="dim" truncate>
        {label}
      </Text>
      <Input
        size="2xs"
        w="58px"
        textAlign="right"
        aria-label="Weight to tack"
        value={typed ?? value.toFixed(2)}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setTyped(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          if (e.key === "Escape") setTyped(null);
        }}
      />
      <Plain
        size="2xs"
        onClick={() => (typed === null ? onCommit(Math.min(Math.max(Math.round(value * 100) / 100, 0), 1)) : keep())}
      >
        Tack
      </Plain>
    </Flex>
  );
}

const isWeight = (value: number) => value >= 0 && value <= 1;

function Span({ value, label, onCommit }: { value: number; label: string; onCommit: (v: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = Math.round(parseFloat(typed ?? ""));
    setTyped(null);
    if (next >= 0 && next <= 1000 && next !== value) onCommit(next);
  };
  return (
    <Flex align="center" gap="1">
      <Text fontSize="xs" color="dim">
        ±
      </Text>
      <Input
        size="2xs"
        w="40px"
        textAlign="right"
        aria-label={label}
        title="Frames each way over which it fades"
        value={typed ?? String(value)}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
        }}
      />
    </Flex>
  );
}
