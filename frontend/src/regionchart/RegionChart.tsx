// Bands from brow to jaw with live meters; choosing here filters lists, curves and controls alike.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useRef } from "react";
import { useShallow } from "zustand/react/shallow";
import { useCatalogue } from "../shared/catalogue";
import { isLight, onTheme } from "../shared/colourMode";
import { colourOf } from "../shared/regions";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { useRegions } from "../workspace/regions";
import { select, useOpen, useSession, sessionState, onSession, useWorkspace } from "../workspace/workspace";
import { activity, chosen, halves } from "./activity";

export function RegionChart() {
  const { selected } = useOpen("selected");
  const own = useSession(useShallow((s) => s.curves?.channels ?? []));
  const { regionOf, channels: all } = useCatalogue();
  const channels = useMemo(() => (own.length ? own : all.filter((c) => regionOf[c] !== "extra")), [own, all, regionOf]);
  const regions = useRegions();
  const bands = useMemo(
    () =>
      halves(
        channels,
        regionOf,
        regions.map((r) => r.name),
      ),
    [channels, regionOf, regions],
  );
  const meters = useRef<(HTMLDivElement | null)[]>([]);
  const sweeping = useRef(false);

  useEffect(() => {
    const painter = addPainter(() => {
      const { curves } = sessionState();
      bands.forEach((half, i) => {
        const meter = meters.current[i];
        if (!meter) return;
        meter.style.transform = `scaleX(${curves ? activity(half, curves, Math.min(clock.frame, curves.frames - 1)).toFixed(3) : 0})`;
        meter.style.background = colourOf(half.region, isLight());
      });
    });
    const off = [clock.onMove(painter.invalidate), onTheme(painter.invalidate), onSession(painter.invalidate)];
    return () => {
      off.forEach((f) => f());
      painter.remove();
    };
  }, [bands]);

  const choose = (index: number, adding: boolean) => {
    const half = bands[index]!;
    if (half.names.length) select(chosen(useWorkspace.getState().selected, half.names, adding));
  };
  const both = (region: string, adding: boolean) => {
    const names = channels.filter((c) => regionOf[c] === region);
    if (names.length) select(chosen(useWorkspace.getState().selected, names, adding));
  };
  const keys = (event: React.KeyboardEvent, index: number) => {
    const step = { ArrowUp: -2, ArrowDown: 2, ArrowLeft: index % 2 ? -1 : 0, ArrowRight: index % 2 ? 0 : 1 }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      event.stopPropagation();
      const next = (index + step + bands.length) % bands.length;
      document.querySelector<HTMLElement>(`[data-half="${next}"]`)?.focus();
      if (event.shiftKey) choose(next, true);
    } else if (event.key === " " || event.key === "Enter") {
      event.preventDefault();
      event.stopPropagation();
      choose(index, event.ctrlKey || event.metaKey || event.shiftKey);
    }
  };

  return (
    <Flex
      direction="column"
      w="176px"
      flexShrink={0}
      bg="bg.panel"
      borderRightWidth="1px"
      borderColor="line"
      p="2"
      gap="1"
      overflowY="auto"
      onPointerUp={() => (sweeping.current = false)}
      data-testid="region-chart"
    >
      <Flex justify="space-between" color="dim" fontSize="xs" px="1">
        <Text>right</Text>
        <Text>region</Text>
        <Text>left</Text>
      </Flex>
      {regions.map(({ name, letter }, row) => (
        <Flex key={name} align="stretch" gap="1" flex="1" minH="22px" maxH="44px">
          {[2 * row, 2 * row + 1].map((index) => {
            const half = bands[index];
            const on = !!half?.names.some((n) => selected.includes(n));
            const every = !!half?.names.length && half.names.every((n) => selected.includes(n));
            const button = (
              <Box
                as="button"
                key={index}
                data-half={index}
                aria-label={`${name} ${half?.side}`}
                aria-pressed={every}
                flex="1"
                position="relative"
                bg={every ? "bg.pressed" : "bg.raised"}
                borderWidth="1px"
                borderColor={every ? "paper" : on ? "dim" : "line"}
                borderRadius="sm"
                overflow="hidden"
                opacity={half?.names.length ? 1 : 0.4}
                cursor="pointer"
                onPointerDown={(e: React.PointerEvent) => {
                  sweeping.current = true;
                  choose(index, e.ctrlKey || e.metaKey || e.shiftKey);
                }}
                onPointerEnter={(e: React.PointerEvent) => {
                  if (sweeping.current && e.buttons === 1) choose(index, true);
                }}
                onKeyDown={(e: React.KeyboardEvent) => keys(e, index)}
              >
                <Box
                  ref={(el: HTMLDivElement | null) => {
                    meters.current[index] = el;
                  }}
                  position="absolute"
                  inset="3px"
                  borderRadius="2px"
                  transformOrigin={index % 2 ? "left" : "right"}
                  style={{ transform: "scaleX(0)" }}
                />
              </Box>
            );
            return index % 2
              ? [
                  <Box
                    as="button"
                    key={`${name}-name`}
                    w="58px"
                    fontSize="sm"
                    cursor="pointer"
                    title={`All of the ${name}`}
                    onClick={(e: React.MouseEvent) => both(name, e.ctrlKey || e.metaKey || e.shiftKey)}
                  >
                    <Text as="span" color="dim" mr="1">
                      {letter}
                    </Text>
                    {name}
                  </Box>,
                  button,
                ]
              : button;
          })}
        </Flex>
      ))}
      <Flex gap="1" mt="1">
        <Box
          as="button"
          flex="1"
          fontSize="sm"
          color="dim"
          py="1"
          borderWidth="1px"
          borderColor="line"
          borderRadius="sm"
          cursor="pointer"
          _hover={{ color: "ink" }}
          onClick={() => select(channels.slice())}
        >
          all
        </Box>
        <Box
          as="button"
          flex="1"
          fontSize="sm"
          color="dim"
          py="1"
          borderWidth="1px"
          borderColor="line"
          borderRadius="sm"
          cursor="pointer"
          _hover={{ color: "ink" }}
          onClick={() => select([])}
        >
          none
        </Box>
      </Flex>
      <Text fontSize="xs" color="dim" px="1">
        {selected.length} of {channels.length} channels. Ctrl adds.
      </Text>
    </Flex>
  );
}
