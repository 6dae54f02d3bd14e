// The deck: one canvas that draws the tracks it is given over one time axis, and gives gestures back. It knows nothing of what
// the tracks show: its owner does.
import { Box } from "@chakra-ui/react";
import { useEffect, useImperativeHandle, useRef, useState, type Ref } from "react";
import { addPainter } from "./frameLoop";
import { gestureFor } from "./gestures";
import { drawGround, drawPlayhead, drawRange, drawTracks } from "./ground";
import { deckPalette } from "./palette";
import { fitted, panned, xToFrame, zoomed, type TimeAxis, type TimecodeStart, type Unit } from "./timeAxis";
import { arranged, gripAt, pulled, scrolledTo, trackAt, type Grip, type Layout, type Sizes } from "./layout";
import { Sheet } from "./sheet";
import { keepSizes, keptSizes } from "./sizes";
import type { Gesture, Press, Span, Stage, Track } from "./track";

/** Time as the deck shows and moves it. */
export type Timeline = {
  readonly frame: number;
  readonly frames: number;
  readonly fps: number;
  readonly range: Span | null;
  seekFrame: (frame: number) => void;
  setRange: (range: Span | null) => void;
  onMove: (listener: () => void) => () => void;
  onChange: (listener: () => void) => () => void;
};
/** What the owner may do to the deck. */
export type DeckHandle = {
  redraw: () => void;
  zoom: (factor: number) => void;
  /** By a part of what is shown. */
  pan: (part: number) => void;
  /** Shows the range, or everything. */
  fit: () => void;
};
type Props = {
  tracks: Track[];
  timeline: Timeline;
  unit: Unit;
  start: TimecodeStart;
  /** When this changes, everything is shown. */
  shows: string;
  /** Called when the theme changes, until it is told not to. */
  onTheme: (listener: () => void) => () => void;
  /** The frames that are in sight, at each drawing. */
  onSeen?: (first: number, last: number) => void;
  handle?: Ref<DeckHandle>;
  /** A part of a lane that is brought in sight when it becomes another: 0..1 of its height. */
  reveals?: { track: string; from: number; to: number } | null;
  /** Sizes of its lanes are kept under it. */
  label: string;
};

export function Deck({ tracks, timeline, unit, start, shows, onTheme, onSeen, handle, reveals, label }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const axis = useRef<TimeAxis>(fitted(800, 100));
  const drawing = useRef({ invalidate: () => undefined as void, now: () => undefined as void });
  const sizes = useRef<Sizes | null>(null);
  const scroll = useRef(0);
  const [hover, setHover] = useState<{ left: number; top: number; text: string } | null>(null);
  const sheet = useRef(new Sheet());
  /** Whether only the playhead moved since the last drawing. */
  const moved = useRef(false);
  const redraw = () => {
    sheet.current.spoil();
    drawing.current.invalidate();
  };
  const sizesNow = (): Sizes => (sizes.current ??= keptSizes(label));
  const layoutOf = (height: number): Layout => {
    const made = arranged(tracks, height, sizesNow(), scroll.current);
    scroll.current = made.lanes.scroll;
    return made;
  };

  const stageOf = (): Stage | null => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context) return null;
    const ratio = window.devicePixelRatio || 1;
    const [width, height] = [element.width / ratio, element.height / ratio];
    axis.current.width = width;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    const { fps: rate, frames, frame, range } = timeline;
    return {
      context,
      width,
      height,
      axis: axis.current,
      rate,
      unit,
      start,
      frames,
      frame,
      range,
      palette: deckPalette(),
    };
  };

  // Over lanes of which not all are in sight the wheel scrolls them; everywhere else it zooms, with Ctrl there too.
  const scrollLanes = useRef<(y: number, by: number) => boolean>(() => false);

  useEffect(() => {
    scrollLanes.current = (y, by) => {
      const { lanes } = layoutOf(stageOf()?.height ?? 0);
      if (y < lanes.top || y >= lanes.bottom || lanes.need <= lanes.bottom - lanes.top) return false;
      scroll.current = lanes.scroll + by * 0.5;
      return true;
    };
    const now = () => {
      const stage = stageOf();
      if (!stage) return;
      onSeen?.(stage.axis.from, stage.axis.to);
      if (!sheet.current.lay(canvas.current!, stage.context)) {
        const layout = layoutOf(stage.height);
        const top = layout.lanes.top;
        drawGround(stage, top);
        drawTracks(stage, tracks, layout);
        drawRange(stage, top);
        if (moved.current) sheet.current.keep(canvas.current!);
      }
      moved.current = false;
      drawPlayhead(stage);
    };
    sheet.current.spoil();
    const painter = addPainter(now);
    const move = () => {
      moved.current = true;
      painter.invalidate();
    };
    drawing.current = { invalidate: painter.invalidate, now };
    const off = [timeline.onMove(move), timeline.onChange(redraw), onTheme(redraw)];
    return () => {
      off.forEach((f) => f());
      painter.remove();
    };
  });

  useEffect(() => {
    axis.current = fitted(axis.current.width, timeline.frames);
    redraw();
  }, [shows, timeline]);

  useEffect(() => {
    const element = canvas.current!;
    const resize = () => {
      const ratio = window.devicePixelRatio || 1;
      const box = element.parentElement!.getBoundingClientRect();
      element.width = Math.round(box.width * ratio);
      element.height = Math.round(box.height * ratio);
      sheet.current.spoil();
      drawing.current.now(); // a new size is an empty canvas: nobody is to see it
    };
    const watcher = new ResizeObserver(resize);
    watcher.observe(element.parentElement!);
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const sideways = Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey;
      if (!sideways && !event.ctrlKey && scrollLanes.current(event.offsetY, event.deltaY)) return redraw();
      const span = axis.current.to - axis.current.from;
      axis.current = sideways
        ? panned(axis.current, ((event.deltaX || event.deltaY) / axis.current.width) * span, timeline.frames)
        : zoomed(axis.current, xToFrame(axis.current, event.offsetX), Math.exp(event.deltaY * 0.0016), timeline.frames);
      redraw();
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => {
      watcher.disconnect();
      element.removeEventListener("wheel", wheel);
    };
  }, [timeline]);

  const revealed = reveals ? `${reveals.track} ${reveals.from} ${reveals.to}` : "";
  const revealing = useRef("");
  useEffect(() => {
    if (revealing.current === revealed) return;
    revealing.current = revealed;
    const stage = stageOf();
    const at = tracks.findIndex((t) => t.id === reveals?.track);
    if (!stage || !reveals || at < 0) return;
    const layout = layoutOf(stage.height);
    const { height } = layout.bands[at]!;
    scroll.current = scrolledTo(layout, at, reveals.from * height, reveals.to * height);
    redraw();
  });

  useImperativeHandle(
    handle,
    () => ({
      redraw,
      zoom: (factor) => {
        axis.current = zoomed(axis.current, timeline.frame, factor, timeline.frames);
        redraw();
      },
      pan: (part) => {
        axis.current = panned(axis.current, part * (axis.current.to - axis.current.from), timeline.frames);
        redraw();
      },
      fit: () => {
        const { range } = timeline;
        axis.current = range
          ? { ...axis.current, from: range.from - 1, to: range.to + 1 }
          : fitted(axis.current.width, timeline.frames);
        redraw();
      },
    }),
    [timeline],
  );

  const placeOf = (event: PointerEvent | React.MouseEvent): Press => {
    const box = canvas.current!.getBoundingClientRect();
    return {
      x: event.clientX - box.left,
      y: event.clientY - box.top,
      adding: event.shiftKey || event.ctrlKey || event.metaKey,
    };
  };
  /** The track under a place with what it is drawn with. */
  const under = (at: Press) => {
    const stage = stageOf();
    if (!stage) return null;
    const layout = layoutOf(stage.height);
    const grip = gripAt(tracks, layout, stage.width, at.x, at.y);
    const index = trackAt(layout.bands, at.y);
    return { stage, layout, grip, index, track: tracks[index] ?? null, band: layout.bands[index]! };
  };

  /** Pulls an edge of a lane, the boundary below them, or the bar that scrolls them. */
  const pulling = (grip: Grip, layout: Layout, begun: Press): Gesture => {
    const before = sizesNow();
    const { lanes } = layout;
    return {
      move: (p) => {
        if (grip.kind === "scroll")
          scroll.current = lanes.scroll + ((p.y - begun.y) / (lanes.bottom - lanes.top)) * lanes.need;
        else sizes.current = pulled(grip, before, layout, p.y - begun.y);
      },
      release: () => keepSizes(label, sizesNow()),
    };
  };

  const own = (event: React.PointerEvent, at: Press, onRuler: boolean): Gesture => {
    const gesture = gestureFor(event, onRuler);
    const began = xToFrame(axis.current, at.x);
    const startAxis = { ...axis.current };
    if (gesture === "scrub") timeline.seekFrame(began);
    const move = (p: Press) => {
      const now = xToFrame(axis.current, p.x);
      if (gesture === "scrub") timeline.seekFrame(now);
      else if (gesture === "range")
        timeline.setRange({
          from: Math.round(Math.max(0, Math.min(began, now))),
          to: Math.round(Math.min(timeline.frames - 1, Math.max(began, now))),
        });
      else {
        const by = ((at.x - p.x) / startAxis.width) * (startAxis.to - startAxis.from);
        axis.current = panned(startAxis, by, timeline.frames);
      }
    };
    return { move, release: () => undefined };
  };

  const press = (event: React.PointerEvent<HTMLCanvasElement>) => {
    const element = event.currentTarget;
    const at = placeOf(event);
    const found = under(at);
    const plain = event.button === 0 && !event.altKey;
    const grip = plain && found?.grip ? pulling(found.grip, found.layout, at) : null;
    const taken = grip ?? (plain && found?.track?.press?.(found.stage, found.band, at));
    if (taken === "taken") return;
    const gesture = taken || own(event, at, found?.index === 0);
    element.setPointerCapture(event.pointerId);
    const move = (e: PointerEvent) => {
      gesture.move(placeOf(e));
      redraw();
    };
    const release = (e: PointerEvent) => {
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", release);
      element.removeEventListener("pointercancel", release);
      gesture.release(placeOf(e));
      redraw();
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", release);
    element.addEventListener("pointercancel", release);
    redraw();
  };

  const point = (event: React.PointerEvent<HTMLCanvasElement>) => {
    const at = placeOf(event);
    const found = under(at);
    const shape = found?.grip ? (found.grip.kind === "scroll" ? "default" : "row-resize") : "";
    if (event.currentTarget.style.cursor !== shape) event.currentTarget.style.cursor = shape;
    const text = (!found?.grip && found?.track?.say?.(found.stage, found.band, at)) || null;
    setHover(text ? { left: Math.min(at.x + 12, axis.current.width - 340), top: Math.max(at.y - 30, 0), text } : null);
  };

  const twice = (event: React.MouseEvent<HTMLCanvasElement>) => {
    const at = placeOf(event);
    const found = under(at);
    if (found?.grip?.kind === "boundary") sizes.current = { ...sizesNow(), lanes: null };
    if (found?.grip) return (keepSizes(label, sizesNow()), redraw());
    found?.track?.twice?.(found.stage, found.band, at);
  };

  return (
    <Box position="relative" flex="1" minH="0">
      <canvas
        ref={canvas}
        style={{ position: "absolute", inset: 0, width: "100%", height: "100%", touchAction: "none" }}
        onPointerDown={press}
        onPointerMove={point}
        onPointerLeave={() => setHover(null)}
        onDoubleClick={twice}
        role="img"
        aria-label={label}
        data-testid="deck-canvas"
      />
      {hover && (
        <Box
          position="absolute"
          pointerEvents="none"
          left={`${hover.left}px`}
          top={`${hover.top}px`}
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
  );
}
