// The time deck: one canvas, one kit of layers and tools, at every desk.
import { Box, Flex, HStack, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { Diff, Maximize2, Pause, Play, Repeat, SkipBack, SkipForward, Volume2, VolumeX } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api } from "../api/client";
import { useCatalogue } from "../app/catalogue";
import { onTheme, useLight } from "../app/colourMode";
import { clock } from "../playback/clock";
import { useClock } from "../playback/useClock";
import { activeSession, edit, setComparing, useOpen, useWorkspace, type Held } from "../workspace/workspace";
import { keyPress } from "../keys/edit";
import { TOOLS, useKeys } from "../keys/keys";
import { choose, toNext, useSnags } from "../snags/snags";
import { useTrial } from "../workspace/trial";
import { DeckTools } from "./DeckTools";
import { deckCurves, faultMarks, keyedCurves, Pyramids, snagMarks } from "./deckModel";
import { extent } from "./decimate";
import { addPainter } from "./frameLoop";
import { nearest } from "./hitTest";
import { drawContacts, heldAt } from "./layers/contacts";
import { drawCurves, valueAt } from "./layers/curves";
import { drawGrid } from "./layers/grid";
import { drawKeys } from "./layers/keys";
import { drawLane, LANE } from "./layers/lane";
import { drawPlayhead } from "./layers/playhead";
import { drawRange } from "./layers/range";
import { drawSnags, snagAt } from "./layers/snags";
import { drawWave } from "./layers/wave";
import { deckPalette } from "./palette";
import { fitted, frameLabel, panned, timecodeStart, xToFrame, zoomed, type TimeAxis, type Unit } from "./timeAxis";
import { beginGesture, insertAt, type Gesture as KeyGesture } from "./tools/keyTools";
import { gestureFor, type Gesture } from "./tools/pointer";
import { rangeOf, valueToY } from "./valueAxis";
import { curvesTop, type DeckView, type Mark } from "./view";

const LEGEND = 4; // names in the corner
const LAYERS = [drawGrid, drawSnags, drawWave, drawCurves, drawLane, drawContacts, drawKeys, drawRange, drawPlayhead];

export function TimeDeck({
  movesSound = false,
  editsKeys = false,
  onHeld,
}: {
  movesSound?: boolean;
  editsKeys?: boolean;
  onHeld?: (span: Held) => void;
}) {
  const { opened, curves, selected, comparing, revision, against, body } = useOpen(
    "opened",
    "curves",
    "selected",
    "comparing",
    "revision",
    "against",
    "body",
  );
  const { regionOf } = useCatalogue();
  const canvas = useRef<HTMLCanvasElement>(null);
  const axis = useRef<TimeAxis>(fitted(800, 100));
  const drawing = useRef<{ invalidate: () => void }>({ invalidate: () => undefined });
  const [kept] = useState(() => new Pyramids());
  const [unit, setUnit] = useState<Unit>("frames");
  const [hover, setHover] = useState<{ left: number; y: number; text: string } | null>(null);
  const peaks = useRef<DeckView["peaks"]>(null);
  const dragged = useRef<number | null>(null);
  const stroking = useRef<KeyGesture | null>(null);
  const keyed = useKeys();
  const { list: found, chosen: looked } = useSnags();
  const trial = useTrial();
  const soundId = opened?.sources.sound?.id;
  const state = useClock();
  const light = useLight();

  const other =
    against && curves && against.raw.data.length === curves.tidied.data.length ? against.raw.data : undefined;
  const model = useMemo(() => {
    const shown = curves ? deckCurves(curves, selected, regionOf, light, kept, other) : [];
    const spans = shown.map((c) => extent(c.tidied));
    const marks: Mark[] = curves ? faultMarks(curves, (opened?.sources.curves?.info.faults as never[]) ?? []) : [];
    const range = rangeOf(
      spans.map((s, i) => s.low / shown[i]!.scale),
      spans.map((s, i) => s.high / shown[i]!.scale),
      !shown.length || shown.some((c) => c.scale === 1 && !/^(head|gaze)/.test(c.name)),
    );
    const keys = editsKeys ? keyedCurves(shown, opened?.take.body) : [];
    const snags = snagMarks(found?.snags ?? [], looked, curves?.frames ?? 1, light);
    return {
      shown,
      marks,
      range,
      keys,
      snags,
      lane: !!other,
      start: curves ? timecodeStart(curves.timecode, curves.timecodeRate || curves.rateText) : null,
      revision,
    };
  }, [curves, selected, regionOf, kept, opened, revision, light, other, editsKeys, found, looked]);

  const view = useCallback((): DeckView | null => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context) return null;
    const ratio = window.devicePixelRatio || 1;
    const width = element.width / ratio;
    const height = element.height / ratio;
    axis.current.width = width;
    const session = activeSession();
    if (session) session.seen = { first: axis.current.from, last: axis.current.to };
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    return {
      context,
      width,
      height,
      axis: axis.current,
      rate: clock.fps,
      unit,
      start: model.start,
      frames: clock.frames,
      frame: clock.frame,
      value: { ...model.range, top: curvesTop + 4, bottom: height - 4 - (model.lane && comparing ? LANE : 0) },
      curves: model.shown,
      comparing,
      lane: model.lane,
      snags: model.snags,
      held: onHeld && body ? body : null,
      keys: model.keys,
      chosen: keyed.chosen,
      drag: keyed.drag,
      stroke: stroking.current?.stroke() ?? [],
      strokeClosed: stroking.current?.closed ?? false,
      range: clock.range,
      peaks: peaks.current,
      soundOffset: dragged.current ?? opened?.take.body.soundOffset ?? 0,
      marks: model.marks,
      palette: deckPalette(),
    };
  }, [model, unit, comparing, opened, keyed.chosen, keyed.drag, onHeld, body]);

  useEffect(() => {
    const painter = addPainter(() => {
      const now = view();
      if (now) for (const layer of LAYERS) layer(now);
    });
    drawing.current = painter;
    const off = [clock.onMove(painter.invalidate), clock.onChange(painter.invalidate), onTheme(painter.invalidate)];
    return () => {
      off.forEach((f) => f());
      painter.remove();
    };
  }, [view]);

  // A new take is shown whole.
  const takeId = opened?.take.id;
  const frames = curves?.frames ?? clock.frames;
  useEffect(() => {
    axis.current = fitted(axis.current.width, frames);
    drawing.current.invalidate();
  }, [takeId, frames]);

  useEffect(() => {
    peaks.current = null;
    drawing.current.invalidate();
    if (!soundId) return;
    let gone = false;
    void api.peaks(soundId).then(
      (made) => {
        if (gone) return;
        peaks.current = { data: made.arrays.peaks!.data, rate: Number(made.head.rate) };
        drawing.current.invalidate();
      },
      () => undefined,
    );
    return () => {
      gone = true;
    };
  }, [soundId]);

  useEffect(() => {
    const element = canvas.current!;
    const resize = () => {
      const ratio = window.devicePixelRatio || 1;
      const box = element.parentElement!.getBoundingClientRect();
      element.width = Math.round(box.width * ratio);
      element.height = Math.round(box.height * ratio);
      drawing.current.invalidate();
    };
    const watcher = new ResizeObserver(resize);
    watcher.observe(element.parentElement!);
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const x = event.offsetX;
      const sideways = Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey;
      const span = axis.current.to - axis.current.from;
      axis.current = sideways
        ? panned(axis.current, ((event.deltaX || event.deltaY) / axis.current.width) * span, clock.frames)
        : zoomed(axis.current, xToFrame(axis.current, x), Math.exp(event.deltaY * 0.0016), clock.frames);
      drawing.current.invalidate();
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => {
      watcher.disconnect();
      element.removeEventListener("wheel", wheel);
    };
  }, []);

  const fit = useCallback(() => {
    axis.current = clock.range
      ? { ...axis.current, from: clock.range.from - 1, to: clock.range.to + 1 }
      : fitted(axis.current.width, clock.frames);
    drawing.current.invalidate();
  }, []);

  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      if ((event.target as HTMLElement).closest("input, textarea, select, [role=slider]")) return;
      if (editsKeys && keyPress(event)) {
        event.preventDefault();
        event.stopImmediatePropagation();
        return;
      }
      if (event.ctrlKey || event.metaKey) return;
      const tool = editsKeys ? TOOLS[Number(event.key) - 1] : undefined;
      if (tool) return useKeys.setState({ tool });
      const span = axis.current.to - axis.current.from;
      if (event.key === "+" || event.key === "=") axis.current = zoomed(axis.current, clock.frame, 0.8, clock.frames);
      else if (event.key === "-") axis.current = zoomed(axis.current, clock.frame, 1.25, clock.frames);
      else if (event.key === "PageUp") axis.current = panned(axis.current, -span / 2, clock.frames);
      else if (event.key === "PageDown") axis.current = panned(axis.current, span / 2, clock.frames);
      else if (event.key === "f") fit();
      else if (event.key === "d") setComparing(!useWorkspace.getState().comparing);
      else if (event.key === "n" || event.key === "N") {
        if (!toNext(event.key === "N")) jump(model.marks, event.key === "N");
      } else return;
      drawing.current.invalidate();
    };
    // Before the shell's own keys: arrows with Alt move chosen keys, not the playhead.
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [fit, model, editsKeys]);

  const press = (event: React.PointerEvent<HTMLCanvasElement>) => {
    const element = event.currentTarget;
    const box = element.getBoundingClientRect();
    const at = (e: PointerEvent | React.PointerEvent) => xToFrame(axis.current, e.clientX - box.left);
    const place = (e: PointerEvent | React.PointerEvent) => ({
      x: e.clientX - box.left,
      y: e.clientY - box.top,
      adding: e.shiftKey || e.ctrlKey,
    });
    const now = view();
    const snag = now && event.button === 0 ? snagAt(now, place(event).x, place(event).y) : null;
    if (snag) return choose(found!.snags.find((s) => s.key === snag.key) ?? null);
    const held = now && onHeld && event.button === 0 ? heldAt(now, place(event).x, place(event).y) : null;
    if (held) return onHeld!(held);
    if (
      editsKeys &&
      now &&
      keyed.tool !== "scrub" &&
      event.button === 0 &&
      !event.altKey &&
      place(event).y > curvesTop
    ) {
      const made = beginGesture(keyed.tool, now, place(event));
      if (made) return follow(element, event.pointerId, made, place);
    }
    const gesture: Gesture = gestureFor(
      { y: event.clientY - box.top, button: event.button, shiftKey: event.shiftKey, altKey: event.altKey },
      movesSound && !!soundId,
    );
    const began = at(event);
    const from = opened?.take.body.soundOffset ?? 0;
    const startAxis = { ...axis.current };
    const startX = event.clientX;
    element.setPointerCapture(event.pointerId);
    const move = (e: PointerEvent) => {
      if (gesture === "scrub") clock.seekFrame(at(e));
      else if (gesture === "range")
        clock.setRange({
          from: Math.round(Math.max(0, Math.min(began, at(e)))),
          to: Math.round(Math.min(clock.frames - 1, Math.max(began, at(e)))),
        });
      else if (gesture === "sound") {
        dragged.current = Math.round((from + (at(e) - began) / clock.fps) * 1000) / 1000;
        clock.setSoundOffset(dragged.current);
      } else
        axis.current = panned(
          startAxis,
          ((startX - e.clientX) / startAxis.width) * (startAxis.to - startAxis.from),
          clock.frames,
        );
      drawing.current.invalidate();
    };
    const release = () => {
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", release);
      element.removeEventListener("pointercancel", release);
      if (gesture === "sound" && dragged.current !== null) {
        const offset = dragged.current;
        void edit("take", "slide the sound", [{ path: "soundOffset", value: offset }]).finally(() => {
          dragged.current = null;
        });
      }
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", release);
    element.addEventListener("pointercancel", release);
    if (gesture === "scrub") clock.seekFrame(began);
  };

  /** Follows a gesture of the tool in hand to its end. */
  const follow = (
    element: HTMLCanvasElement,
    pointer: number,
    gesture: KeyGesture,
    place: (e: PointerEvent) => { x: number; y: number; adding: boolean },
  ) => {
    stroking.current = gesture;
    element.setPointerCapture(pointer);
    const move = (e: PointerEvent) => {
      gesture.move(place(e));
      drawing.current.invalidate();
    };
    const release = (e: PointerEvent) => {
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", release);
      element.removeEventListener("pointercancel", release);
      gesture.release(place(e));
      stroking.current = null;
      drawing.current.invalidate();
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", release);
    element.addEventListener("pointercancel", release);
    drawing.current.invalidate();
  };

  const twice = (event: React.MouseEvent<HTMLCanvasElement>) => {
    const now = view();
    const box = event.currentTarget.getBoundingClientRect();
    const at = { x: event.clientX - box.left, y: event.clientY - box.top };
    if (editsKeys && now && keyed.tool === "keys" && at.y > curvesTop) insertAt(now, at);
  };

  const point = (event: React.PointerEvent<HTMLCanvasElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const now = view();
    if (!now || !model.shown.length) return;
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const frame = Math.min(Math.max(Math.round(xToFrame(axis.current, x)), 0), clock.frames - 1);
    const name = nearest(
      model.shown.map((c) => ({
        name: c.name,
        valueAt: (f) => valueAt(c.tidied, f),
        toY: (v) => valueToY(now.value, v / c.scale),
      })),
      frame,
      y,
    );
    const found = model.shown.find((c) => c.name === name);
    setHover(
      found
        ? {
            left: Math.min(x + 12, axis.current.width - 340),
            y,
            text: [
              found.name,
              show(valueAt(found.tidied, frame)),
              `(${other ? against!.name : "raw"} ${show(valueAt(found.raw, frame))})`,
              `frame ${frame}`,
            ].join("  "),
          }
        : null,
    );
  };

  return (
    <Flex direction="column" h="100%" bg="bg.deck" borderTopWidth="1px" borderColor="line" data-testid="time-deck">
      <HStack h="36px" px="3" gap="1" borderBottomWidth="1px" borderColor="line" flexShrink={0}>
        <Tool label="To the start" onClick={() => clock.seekFrame(clock.span.from)}>
          <SkipBack size={15} />
        </Tool>
        <Tool label={state.playing ? "Pause (Space)" : "Play (Space)"} onClick={() => clock.toggle()} accent>
          {state.playing ? <Pause size={16} /> : <Play size={16} />}
        </Tool>
        <Tool label="To the end" onClick={() => clock.seekFrame(clock.span.to)}>
          <SkipForward size={15} />
        </Tool>
        <Tool label="Loop" pressed={state.looping} onClick={() => clock.setLooping(!clock.looping)}>
          <Repeat size={15} />
        </Tool>
        <Tool
          label="Sound while scrubbing"
          pressed={state.scrubSound}
          onClick={() => clock.setScrubSound(!clock.scrubSound)}
        >
          {state.scrubSound ? <Volume2 size={15} /> : <VolumeX size={15} />}
        </Tool>
        <NativeSelect.Root size="xs" w="74px">
          <NativeSelect.Field
            aria-label="Playback rate"
            value={state.rate}
            onChange={(e) => clock.setRate(Number(e.target.value))}
          >
            {[0.25, 0.5, 1, 1.5, 2].map((r) => (
              <option key={r} value={r}>
                {r}×
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Text
          fontFamily="number"
          fontSize="lg"
          color="accent"
          minW="112px"
          textAlign="right"
          data-testid="time-readout"
        >
          {frameLabel(state.frame, clock.fps, unit, model.start)}
        </Text>
        <NativeSelect.Root size="xs" w="108px">
          <NativeSelect.Field aria-label="Time shown as" value={unit} onChange={(e) => setUnit(e.target.value as Unit)}>
            <option value="frames">frames</option>
            <option value="seconds">seconds</option>
            <option value="timecode">timecode</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Text color="dim" fontSize="sm" whiteSpace="nowrap">
          of {frames}
          {curves ? ` at ${Number(curves.rate.toFixed(3))} fps` : ""}
        </Text>
        <Box flex="1" />
        {editsKeys && <DeckTools />}
        <Tool
          label={`Shade the difference ${other ? `to ${against!.name}` : "between raw and tidied"} (D)`}
          pressed={comparing}
          onClick={() => setComparing(!comparing)}
        >
          <Diff size={15} />
        </Tool>
        <Tool label="Fit (F)" onClick={fit}>
          <Maximize2 size={15} />
        </Tool>
      </HStack>
      <Box position="relative" flex="1" minH="0">
        <canvas
          ref={canvas}
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%", touchAction: "none" }}
          onPointerDown={press}
          onPointerMove={point}
          onPointerLeave={() => setHover(null)}
          onDoubleClick={twice}
          aria-label="Time deck"
          data-testid="deck-canvas"
        />
        {!curves && opened && (
          <Text position="absolute" top="50%" left="0" right="0" textAlign="center" color="dim">
            This take has no curves yet.{" "}
            {opened.sources.footage
              ? "Solve its clip at the Solve desk."
              : opened.sources.markers
                ? "Solve its markers at the Solve desk."
                : "Bring in a curve table at the Gather desk."}
          </Text>
        )}
        <Flex
          position="absolute"
          top={`${curvesTop + (onHeld ? 20 : 2)}px`}
          right="10px"
          gap="3"
          pointerEvents="none"
          fontSize="sm"
          color="dim"
          whiteSpace="nowrap"
        >
          {model.shown.slice(0, LEGEND).map((c) => (
            <Text key={c.name}>
              <Box
                as="span"
                display="inline-block"
                w="14px"
                borderTopWidth="2px"
                borderStyle={c.dashed ? "dashed" : "solid"}
                style={{ borderColor: c.colour }}
                mr="1"
                mb="1"
              />
              {c.name}
            </Text>
          ))}
          {model.shown.length > LEGEND && <Text>and {model.shown.length - LEGEND} more</Text>}
        </Flex>
        {trial.name && (
          <Box
            position="absolute"
            top="108px"
            right="10px"
            bg="accent"
            color="accentInk"
            fontWeight="600"
            px="2"
            py="0.5"
            borderRadius="sm"
            pointerEvents="none"
            data-testid="trial"
          >
            {trial.showing}: {trial.name}
          </Box>
        )}
        {hover && (
          <Box
            position="absolute"
            pointerEvents="none"
            left={`${hover.left}px`}
            top={`${Math.max(hover.y - 30, 0)}px`}
            bg="bg.raised"
            borderWidth="1px"
            borderColor="line"
            px="2"
            py="0.5"
            borderRadius="sm"
            fontSize="sm"
            fontFamily="number"
            whiteSpace="pre"
          >
            {hover.text}
          </Box>
        )}
      </Box>
    </Flex>
  );
}

const show = (value: number) => (Number.isNaN(value) ? "gap" : value.toFixed(3));

/** To the next or previous fault of the device's frames. */
function jump(marks: Mark[], backward: boolean) {
  const starts = marks
    .filter((m) => m.kind !== "uneven")
    .map((m) => m.from)
    .sort((a, b) => a - b);
  const next = backward ? starts.filter((f) => f < clock.frame).pop() : starts.find((f) => f > clock.frame);
  if (next !== undefined) clock.seekFrame(next);
}

function Tool({
  label,
  pressed,
  accent,
  onClick,
  children,
}: {
  label: string;
  pressed?: boolean;
  accent?: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <IconButton
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      size="xs"
      variant="ghost"
      color={accent || pressed ? "accent" : "ink"}
      bg={pressed ? "bg.pressed" : undefined}
      onClick={onClick}
    >
      {children}
    </IconButton>
  );
}
