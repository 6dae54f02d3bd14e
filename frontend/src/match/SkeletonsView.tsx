// Both skeletons side by side in the pose of the body's rest: point at a joint of one, the other answers; press one of each to match them.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import { edit, preview, useOpen } from "../workspace/workspace";
import {
  MARGIN,
  NEAR,
  nearestPlace,
  partner,
  PLAIN_LOOK,
  projected,
  swung,
  STATE_WORDS,
  states,
  turnable,
  turning,
  type Frame,
  type Look,
  type Report,
  type Whose,
} from "./matchModel";
import { SkeletonDrawing } from "./SkeletonDrawing";
import { angleAt, turnedInView } from "./turnRing";
import { chooseJoint, hoverJoint, useMatchReport, useMatchState } from "./useMatch";

const WITHIN = 14; // pixels from a joint within which it is meant
const RING = 30; // radius in pixels of the ring that turns a joint
const HANDLE = 9;

export function SkeletonsView() {
  const report = useMatchReport();
  const { opened } = useOpen("opened");
  const held = opened?.sources;
  const why =
    !held?.body && !held?.hands
      ? "This take has no body to match. Bring one in with the Body tab."
      : "The take's character has no joints to match.";
  if (!report)
    return (
      <Flex h="100%" align="center" justify="center" p="6">
        <Text color="dim">{why}</Text>
      </Flex>
    );
  return (
    <Skeletons
      key={report.part}
      report={report}
      body={held![report.part]!.name}
      character={String(opened!.character!.body.name)}
    />
  );
}

type Drag = { kind: "turn" | "slide" | "ring"; x: number; y: number; look: Look; moved: boolean };

function Skeletons({ report, body, character }: { report: Report; body: string; character: string }) {
  const box = useRef<HTMLDivElement>(null);
  const drag = useRef<Drag | null>(null);
  const [size, setSize] = useState({ width: 600, height: 400 });
  const start = report.part === "body" ? "whole" : "leftHand";
  const [look, setLook] = useState<Look>({ ...PLAIN_LOOK, pitch: NEAR[start]!.pitch });
  const [near, setNear] = useState(start);
  const [ring, setRing] = useState(0);
  const { chosen, over, both } = useMatchState();
  useEffect(() => {
    const watcher = new ResizeObserver(() => {
      const { clientWidth: width, clientHeight: height } = box.current!;
      setSize({ width, height });
    });
    watcher.observe(box.current!);
    return () => watcher.disconnect();
  }, []);
  const frames = useMemo<Record<Whose, Frame>>(() => {
    const half = { y: MARGIN + 8, width: size.width / 2 - 2 * MARGIN, height: size.height - 2 * MARGIN - 34 };
    return { body: { x: MARGIN, ...half }, character: { x: size.width / 2 + MARGIN, ...half } };
  }, [size]);
  const places = useMemo(
    () => ({
      body: projected(report.body, near, look, frames.body),
      character: projected(report.character, near, look, frames.character),
    }),
    [report, near, look, frames],
  );
  const state = useMemo(() => states(report), [report]);

  const point = (e: React.PointerEvent | React.WheelEvent) => {
    const area = box.current!.getBoundingClientRect();
    return { x: e.clientX - area.left, y: e.clientY - area.top };
  };
  const side = (x: number): Whose => (x < size.width / 2 ? "body" : "character");
  const jointAt = (x: number, y: number) => {
    const whose = side(x);
    const found = nearestPlace(places[whose], x, y, WITHIN);
    return found < 0 ? null : { whose, name: report[whose][found]!.name };
  };
  const turned =
    chosen.character && turnable(report, chosen.character)
      ? report.character.findIndex((j) => j.name === chosen.character)
      : -1;
  const centre = turned >= 0 ? places.character[turned]! : null;
  const onRing = (x: number, y: number) =>
    centre !== null && Math.abs(Math.hypot(x - centre.x, y - centre.y) - RING) < HANDLE;

  const onDown = (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const { x, y } = point(e);
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { kind: onRing(x, y) ? "ring" : e.shiftKey ? "slide" : "turn", x, y, look, moved: false };
  };
  const degrees = (x: number, y: number) => {
    const from = drag.current!;
    const by = angleAt(centre!, x, y) - angleAt(centre!, from.x, from.y);
    return { by, now: turnedInView(report.turns[chosen.character] ?? [0, 0, 0], look, by) };
  };
  const onMove = (e: React.PointerEvent) => {
    const { x, y } = point(e);
    const from = drag.current;
    if (!from) {
      const found = jointAt(x, y);
      if (found?.name !== over?.name || found?.whose !== over?.whose) hoverJoint(found);
      return;
    }
    if (!from.moved && Math.hypot(x - from.x, y - from.y) < 4) return;
    from.moved = true;
    if (from.kind === "ring") {
      const { by, now } = degrees(x, y);
      setRing(by);
      void preview({ join: turning(report, chosen.character, now, both) });
    } else if (from.kind === "slide")
      setLook({ ...from.look, x: from.look.x + x - from.x, y: from.look.y + y - from.y });
    else
      setLook({
        ...from.look,
        yaw: from.look.yaw + (x - from.x) * 0.5,
        pitch: Math.max(-80, Math.min(80, from.look.pitch + (y - from.y) * 0.4)),
      });
  };
  const onUp = (e: React.PointerEvent) => {
    const from = drag.current;
    const { x, y } = point(e);
    if (from?.kind === "ring" && from.moved) {
      const { now } = degrees(x, y);
      void edit("join", `turn the rest of ${chosen.character}`, turning(report, chosen.character, now, both));
    } else if (from && !from.moved) {
      const found = jointAt(x, y);
      if (found) chooseJoint(report, found.whose, found.name);
    }
    drag.current = null;
    setRing(0);
  };
  const pressed: Whose = chosen.character ? "character" : "body";
  const meant = over ?? (chosen[pressed] ? { whose: pressed, name: chosen[pressed] } : null);
  const answer = meant ? partner(report, meant.whose, meant.name) : "";
  const names: Record<Whose, string> = { body: "", character: "" };
  if (meant) {
    names[meant.whose] = meant.name;
    names[meant.whose === "body" ? "character" : "body"] = answer;
  }
  return (
    <Box
      ref={box}
      h="100%"
      position="relative"
      overflow="hidden"
      cursor={over ? "pointer" : "grab"}
      data-testid="skeletons"
      touchAction="none"
      onPointerDown={onDown}
      onPointerMove={onMove}
      onPointerUp={onUp}
      onPointerLeave={() => !drag.current && hoverJoint(null)}
      onWheel={(e) => setLook({ ...look, zoom: Math.max(0.4, Math.min(30, look.zoom * Math.exp(-e.deltaY * 0.0012))) })}
      onDoubleClick={() => setLook(PLAIN_LOOK)}
    >
      <svg width={size.width} height={size.height} role="img" aria-label="The skeletons of body and character">
        <line
          x1={size.width / 2}
          x2={size.width / 2}
          y1={12}
          y2={size.height - 12}
          stroke="var(--chakra-colors-line)"
        />
        <SkeletonDrawing
          joints={report.body}
          places={places.body}
          clip={frames.body}
          look={(j) => (Object.values(report.matches).includes(j.name) ? "matched" : "unmatched")}
          meant={names.body}
          chosen={chosen.body}
        />
        <SkeletonDrawing
          joints={report.character}
          places={ring ? swung(report.character, places.character, turned, ring) : places.character}
          clip={frames.character}
          look={(j) => (state[j.name] === "shared" ? "matched" : state[j.name]!)}
          meant={names.character}
          chosen={chosen.character}
        />
        {centre && (
          <g transform={`rotate(${ring} ${centre.x} ${centre.y})`} data-testid="turn-ring">
            <circle
              cx={centre.x}
              cy={centre.y}
              r={RING}
              fill="none"
              stroke="var(--chakra-colors-accent)"
              strokeWidth="2"
            />
            <circle cx={centre.x} cy={centre.y - RING} r={5} fill="var(--chakra-colors-accent)" />
          </g>
        )}
      </svg>
      <Title left="12px" word={body} joint={names.body} />
      <Title
        left={`${size.width / 2 + 12}px`}
        word={character}
        joint={names.character}
        more={names.character ? STATE_WORDS[state[names.character]!] : ""}
      />
      <Flex position="absolute" bottom="36px" left="10px" gap="0.5" role="group" aria-label="Look at">
        {Object.entries(NEAR).map(([key, { word, pitch }]) => (
          <Box
            as="button"
            key={key}
            px="1.5"
            py="0.5"
            fontSize="xs"
            borderRadius="2px"
            color={near === key ? "ink" : "dim"}
            bg={near === key ? "bg.pressed" : "bg.panel"}
            aria-pressed={near === key}
            onPointerDown={(e: React.PointerEvent) => e.stopPropagation()}
            onClick={() => {
              setNear(key);
              setLook({ ...PLAIN_LOOK, pitch });
            }}
          >
            {word}
          </Box>
        ))}
      </Flex>
    </Box>
  );
}

function Title({ left, word, joint, more = "" }: { left: string; word: string; joint: string; more?: string }) {
  return (
    <Box position="absolute" left={left} top="8px" pointerEvents="none" maxW="46%">
      <Text fontSize="sm" color="dim" truncate>
        {word}
      </Text>
      <Text minH="20px" truncate>
        {joint}
        {more && (
          <Text as="span" color="dim">
            {" "}
            {more}
          </Text>
        )}
      </Text>
    </Box>
  );
}
