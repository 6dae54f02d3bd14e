// The recordings of a line-up as bars on one ruler, take by take; a bar is pressed to choose it and dragged to move it.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { Plain } from "../../drawer/parts";
import { isLight } from "../../shared/colourMode";
import { colourOf } from "../../shared/regions";
import { toNumber } from "../../shared/seconds";
import { frameLabel, frameToX, markStep, timecodeStart, xToFrame, type TimeAxis } from "../../timekit/timeAxis";
import { chooseRecordings, STILL, useLineUp, useLineUpDocument, useLineUpEdits } from "./lineUp";
import {
  about,
  beginning,
  extent,
  fitting,
  how,
  isUnsure,
  moving,
  PART_LETTERS,
  shifted,
  type LineUp,
  type Recording,
} from "./lineUpModel";

const NAMES = 190; // pixels of the names at the left
const ROW = 24;
const colour = (part: Recording["part"]) =>
  ({ face: "accent", body: colourOf("lids", isLight()), sound: "wave" })[part];

export function LineUpBars() {
  const open = useLineUpDocument();
  if (!open)
    return (
      <Flex h="100%" align="center" justify="center" bg="bg.deck" data-testid="line-up-bars">
        <Text color="dim">Begin a line-up in the drawer: its recordings stand here on one ruler.</Text>
      </Flex>
    );
  return <Bars key={open.lineup.id} open={open} />;
}

function Bars({ open }: { open: LineUp }) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  const rate = toNumber(open.lineup.body.rate);
  const { from, to } = extent(open.rows);
  const [axis, setAxis] = useState<TimeAxis | null>(null);
  useLayoutEffect(() => {
    const element = frame.current!;
    const watch = new ResizeObserver(() => setWidth(Math.max(element.clientWidth - NAMES, 100)));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const whole = useMemo(() => fitting(from * rate, to * rate, width), [from, to, rate, width]);
  const shown = axis ? { ...axis, width } : whole;
  // A wheel that may be kept from scrolling has to be listened to by hand.
  useEffect(() => {
    const element = frame.current!;
    const wheel = (event: WheelEvent) => {
      if (
        !event.ctrlKey &&
        !event.altKey &&
        Math.abs(event.deltaY) >= Math.abs(event.deltaX) &&
        element.scrollHeight > element.clientHeight
      )
        return;
      event.preventDefault();
      const left = event.clientX - element.getBoundingClientRect().left - NAMES;
      setAxis((before) => {
        const now = { ...(before ?? whole), width };
        if (Math.abs(event.deltaX) > Math.abs(event.deltaY))
          return shifted(now, (event.deltaX / width) * (now.to - now.from));
        return about(now, xToFrame(now, left), Math.exp(event.deltaY / 400));
      });
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [width, whole]);
  return (
    <Box
      ref={frame}
      position="relative"
      h="100%"
      overflowY="auto"
      overflowX="hidden"
      bg="bg.deck"
      data-testid="line-up-bars"
    >
      <Ruler axis={shown} rate={rate} open={open} onFit={() => setAxis(null)} />
      {open.rows.map((row, n) => (
        <Lane
          key={row.key}
          row={row}
          open={open}
          axis={shown}
          rate={rate}
          leads={open.rows[n - 1]?.take !== row.take}
        />
      ))}
    </Box>
  );
}

function Ruler({ axis, rate, open, onFit }: { axis: TimeAxis; rate: number; open: LineUp; onFit: () => void }) {
  const { timecode } = open.lineup.body;
  const start = timecodeStart(timecode, open.lineup.body.rate);
  const unit = start ? "timecode" : "seconds";
  const step = markStep(axis, rate, unit, 96);
  const marks = [];
  for (let at = Math.ceil(axis.from / step) * step; at <= axis.to; at += step) marks.push(at);
  return (
    <Flex position="sticky" top="0" h="26px" bg="bg.panel" zIndex="2" borderBottomWidth="1px" borderColor="line">
      <Flex w={`${NAMES}px`} flexShrink={0} align="center" justify="space-between" px="2">
        <Text fontSize="sm" color="dim" truncate>
          {open.lineup.body.name}
        </Text>
        <Plain size="2xs" h="18px" onClick={onFit}>
          Fit
        </Plain>
      </Flex>
      <Box position="relative" flex="1" overflow="hidden">
        {marks.map((at) => (
          <Text
            key={at}
            position="absolute"
            left={`${frameToX(axis, at)}px`}
            top="4px"
            pl="1"
            fontSize="xs"
            color="dim"
            borderLeftWidth="1px"
            borderColor="line"
            whiteSpace="nowrap"
          >
            {frameLabel(at, rate, unit, start)}
          </Text>
        ))}
      </Box>
    </Flex>
  );
}

type LaneProps = { row: Recording; open: LineUp; axis: TimeAxis; rate: number; leads: boolean };

function Lane({ row, open, axis, rate, leads }: LaneProps) {
  const { chosen, whole } = useLineUp();
  return (
    <Flex h={`${ROW}px`} borderTopWidth={leads ? "1px" : "0"} borderColor="line">
      <Flex w={`${NAMES}px`} flexShrink={0} align="center" gap="1.5" px="2" bg="bg.panel" zIndex="1">
        <Text w="12px" fontSize="xs" color="dim">
          {PART_LETTERS[row.part]}
        </Text>
        <Text
          fontSize="sm"
          truncate
          color={leads ? "ink" : "dim"}
          title={`${row.slate}, ${row.performer}: ${row.names.join(", ")}`}
        >
          {leads ? `${row.slate} · ${row.performer}` : row.names[0]}
        </Text>
      </Flex>
      <Box position="relative" flex="1" minW="0" overflow="hidden">
        <Bar row={row} open={open} axis={axis} rate={rate} chosen={chosen} whole={whole} />
      </Box>
    </Flex>
  );
}

type BarProps = { row: Recording; open: LineUp; axis: TimeAxis; rate: number; chosen: string[]; whole: boolean };

function Bar({ row, open, axis, rate, chosen, whole }: BarProps) {
  const { move: moveAll } = useLineUpEdits();
  const drag = useLineUp((s) => s.drag);
  const isChosen = chosen.includes(row.key);
  const keysFor = (key: string) =>
    moving(open.rows, chosen.includes(key) ? chosen : [key], whole && row.start !== null);
  const moved = drag.frames && drag.keys.includes(row.key) ? drag.frames : 0;
  const left = frameToX(axis, (row.start ?? 0) * rate + moved);
  const width = Math.max(((row.seconds * rate) / (axis.to - axis.from)) * axis.width, 4);
  const keep = (keys: string[], frames: number) => moveAll("move", open, keys, frames);
  const press = (event: React.PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0) return;
    const many = event.ctrlKey || event.shiftKey || event.metaKey;
    if (many) chooseRecordings(isChosen ? chosen.filter((c) => c !== row.key) : [...chosen, row.key]);
    else if (!isChosen) chooseRecordings([row.key]);
    const from = event.clientX;
    const keys = keysFor(row.key);
    const perPixel = (axis.to - axis.from) / axis.width;
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    let frames = 0;
    const move = (to: PointerEvent) => {
      const raw = (to.clientX - from) * perPixel;
      frames = Math.abs(to.clientX - from) < 3 && !frames ? 0 : to.altKey ? Math.round(raw * 4) / 4 : Math.round(raw);
      useLineUp.setState({ drag: { keys, frames } });
    };
    const end = () => {
      target.removeEventListener("pointermove", move);
      if (!frames) return useLineUp.setState({ drag: STILL });
      void keep(keys, frames).finally(() => useLineUp.setState({ drag: STILL }));
    };
    target.addEventListener("pointermove", move);
    target.addEventListener("lostpointercapture", end, { once: true });
  };
  const key = (event: React.KeyboardEvent) => {
    if (event.key === " " || event.key === "Enter")
      chooseRecordings(isChosen ? chosen.filter((c) => c !== row.key) : [...chosen, row.key]);
    else if (event.key === "ArrowLeft" || event.key === "ArrowRight") {
      const step = (event.altKey ? 0.25 : event.shiftKey ? 10 : 1) * (event.key === "ArrowLeft" ? -1 : 1);
      void keep(keysFor(row.key), step);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const words = `${row.slate}, ${row.part}: ${beginning(row)}${row.start === null ? "" : `, ${how(row)}`}`;
  return (
    <Box
      role="button"
      tabIndex={0}
      aria-pressed={isChosen}
      aria-label={words}
      title={words}
      position="absolute"
      top="3px"
      h={`${ROW - 6}px`}
      left={`${left}px`}
      w={`${width}px`}
      borderRadius="3px"
      borderWidth={isChosen ? "2px" : "1px"}
      borderStyle={row.start === null || isUnsure(row) ? "dashed" : "solid"}
      borderColor={isChosen ? "ink" : row.start === null ? "dim" : colour(row.part)}
      bg={row.start === null ? "transparent" : undefined}
      cursor="grab"
      touchAction="none"
      overflow="hidden"
      onPointerDown={press}
      onKeyDown={key}
    >
      {row.start !== null && (
        <Box position="absolute" inset="0" bg={colour(row.part)} opacity={isUnsure(row) ? 0.18 : 0.4} />
      )}
      <Text
        position="relative"
        fontSize="xs"
        px="1.5"
        lineHeight={`${ROW - 8}px`}
        whiteSpace="nowrap"
        color={row.start === null ? "dim" : "ink"}
      >
        {row.start === null ? "not placed" : row.part}
      </Text>
    </Box>
  );
}
