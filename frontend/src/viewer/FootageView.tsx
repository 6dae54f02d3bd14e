// The footage of a take with what was tracked drawn over it, on the clock that everything shares.
import { Box, HStack, NativeSelect, Text } from "@chakra-ui/react";
import { Crosshair, Maximize } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { freshId } from "../api/changes";
import { colourOf } from "../shared/regions";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { DotsOver } from "../markers/DotsOver";
import { edit, useSession, sessionState, onSession } from "../workspace/workspace";
import { CaptureHead, useSolveOfHead } from "./CaptureHead";
import { drawPoints, inPicture, placed, pointAt, videoTime } from "./footage";
import { SeenPoints } from "./seenPoints";
import { TackSign } from "./TackSign";
import { drawTacks, sameAs, SPAN, type Tack } from "./tacks";
import { Tool } from "./Tool";

const OVER = { off: "no head", over: "head over it", wipe: "wipe to head", flicker: "flicker" } as const;
type Over = keyof typeof OVER;
const FLICKER = 400; // milliseconds each

export function FootageView() {
  const holder = useRef<HTMLDivElement>(null);
  const video = useRef<HTMLVideoElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const dragging = useRef<{ tack: Tack; name: string } | null>(null);
  const redraw = useRef<() => void>(() => undefined);
  const [marks, setMarks] = useState(true);
  const [tacking, setTacking] = useState(false);
  const [over, setOver] = useState<Over>("off");
  const [wipe, setWipe] = useState(0.5);
  const [lit, setLit] = useState(true);
  const footage = useSession((s) => s.opened?.sources.footage);
  const solve = useSession((s) => s.opened?.sources.curves?.info.solve) as { first: number } | undefined;
  const info = footage?.info as
    { width: number; height: number; frames: number; rate: string; proxy?: string } | undefined;
  const head = useSolveOfHead();
  const ready = !!info?.proxy;
  const [came, setCame] = useState<SeenPoints | null>(null);
  const id = footage?.id;
  const frames = info?.frames;
  const points = useMemo(() => (id && ready && frames ? new SeenPoints(id, frames) : null), [id, ready, frames]);
  const first = solve?.first ?? 0;

  useEffect(() => {
    if (!info || !ready) return;
    const [above, under = 1] = info.rate.split("/").map(Number);
    const rate = above! / under;
    const painter = addPainter(() => {
      const film = video.current;
      const sheet = canvas.current;
      if (!film || !sheet) return;
      const time = videoTime(clock.time, first, rate);
      // While it plays the film runs by itself and is only put right when it has drifted.
      if (clock.playing) {
        if (film.paused) void film.play().catch(() => undefined);
        film.playbackRate = clock.rate;
        if (Math.abs(film.currentTime - time) > 0.12) film.currentTime = time;
      } else {
        if (!film.paused) film.pause();
        if (Math.abs(film.currentTime - time) > 0.25 / rate) film.currentTime = time;
      }
      const ratio = window.devicePixelRatio || 1;
      const box = sheet.getBoundingClientRect();
      if (sheet.width !== Math.round(box.width * ratio)) sheet.width = Math.round(box.width * ratio);
      if (sheet.height !== Math.round(box.height * ratio)) sheet.height = Math.round(box.height * ratio);
      const context = sheet.getContext("2d")!;
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      context.clearRect(0, 0, box.width, box.height);
      if (!points) return;
      const frame = Math.round(clock.time * rate) + first;
      const at = placed(info.width, info.height, box.width, box.height);
      const face = points.at(frame);
      if (marks && face) drawPoints(context, face, at, (region) => colourOf(region, false));
      const kept = sessionState().opened?.take.body.tacks ?? {};
      const { tack, name } = dragging.current ?? {};
      if (marks || tacking)
        drawTacks(context, tack ? { ...kept, [name!]: tack } : kept, (n) => points.at(n), frame, at, "#efeadd");
    });
    redraw.current = painter.invalidate;
    const watcher = new ResizeObserver(painter.invalidate);
    watcher.observe(canvas.current!);
    const off = [clock.onMove(painter.invalidate), clock.onChange(painter.invalidate), onSession(painter.invalidate)];
    const came = () => {
      setCame(points);
      painter.invalidate();
    };
    if (points) {
      off.push(points.onArrive(came));
      points.at(Math.round(clock.time * rate) + first); // asked for at once: the first painting may come late
    }
    return () => {
      off.forEach((f) => f());
      watcher.disconnect();
      painter.remove();
    };
  }, [info, ready, points, marks, tacking, first]);

  useEffect(() => {
    if (over !== "flicker") return setLit(true);
    const timer = window.setInterval(() => setLit((l) => !l), FLICKER);
    return () => window.clearInterval(timer);
  }, [over]);

  const place = () => {
    const box = canvas.current!.getBoundingClientRect();
    return { box, at: placed(info!.width, info!.height, box.width, box.height) };
  };
  const tackDown = (event: React.PointerEvent<HTMLDivElement>) => {
    const { box, at } = place();
    const frame = clock.frame + first;
    const face = points?.at(frame);
    const found = face && pointAt(face, at, event.clientX - box.left, event.clientY - box.top);
    if (!found) return;
    clock.pause();
    const element = event.currentTarget;
    const begun: Tack = { frame, span: SPAN, ...found };
    const tacks = sessionState().opened!.take.body.tacks;
    const name = sameAs(tacks, begun) ?? freshId("p");
    const move = (e: PointerEvent) => {
      const { x, y } = inPicture(at, e.clientX - box.left, e.clientY - box.top);
      dragging.current = { name, tack: { ...begun, x: Math.round(x * 10) / 10, y: Math.round(y * 10) / 10 } };
      redraw.current();
    };
    element.setPointerCapture(event.pointerId);
    element.addEventListener("pointermove", move);
    element.addEventListener(
      "pointerup",
      () => {
        element.removeEventListener("pointermove", move);
        const made = dragging.current;
        if (made)
          void edit("take", `tack a point at frame ${frame}`, [{ path: `tacks/${name}`, value: made.tack }]).finally(
            () => {
              dragging.current = null;
              redraw.current();
            },
          );
      },
      { once: true },
    );
  };
  const wipeDown = (event: React.PointerEvent<HTMLDivElement>) => {
    const element = event.currentTarget;
    const box = holder.current!.getBoundingClientRect();
    const move = (e: PointerEvent) => setWipe(Math.min(Math.max((e.clientX - box.left) / box.width, 0.02), 0.98));
    element.setPointerCapture(event.pointerId);
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", () => element.removeEventListener("pointermove", move), { once: true });
  };

  const covered = over !== "off" && head && info;
  const style: React.CSSProperties =
    over === "over"
      ? { opacity: 0.6 }
      : over === "wipe"
        ? { clipPath: `inset(0 0 0 ${wipe * 100}%)` }
        : { visibility: lit ? "visible" : "hidden" };
  return (
    <Box ref={holder} position="absolute" inset="0" bg="bg.ground" data-testid="footage-view">
      {ready && (
        <video
          ref={video}
          src={`/api/sources/${footage!.id}/proxy`}
          muted
          playsInline
          preload="auto"
          onSeeked={(e) => {
            if (canvas.current) canvas.current.dataset.shown = e.currentTarget.currentTime.toFixed(3);
          }}
          style={{ position: "absolute", width: "100%", height: "100%", objectFit: "contain" }}
          aria-label="Footage"
        />
      )}
      {covered && over === "wipe" && (
        <Box position="absolute" top="0" bottom="0" right="0" bg="bg.ground" style={{ left: `${wipe * 100}%` }} />
      )}
      {covered && over === "flicker" && lit && <Box position="absolute" inset="0" bg="bg.ground" />}
      {covered && <CaptureHead source={head} picture={info} style={style} />}
      <canvas
        ref={canvas}
        style={{ position: "absolute", width: "100%", height: "100%", pointerEvents: "none" }}
        data-points={points && came === points ? frames : 0}
        data-testid="footage-points"
      />
      {info && ready && (
        <DotsOver film={video} width={info.width} height={info.height} first={first} source={footage!.id} />
      )}
      {tacking && (
        <Box position="absolute" inset="0" cursor="crosshair" onPointerDown={tackDown} data-testid="tack-pad">
          <Text
            position="absolute"
            bottom="30px"
            left="0"
            right="0"
            textAlign="center"
            fontSize="sm"
            color="paper"
            textShadow="0 0 4px black"
          >
            Drag a point to where it belongs, then solve again
          </Text>
        </Box>
      )}
      {covered && over === "wipe" && (
        <Box
          position="absolute"
          top="0"
          bottom="0"
          w="11px"
          ml="-5px"
          cursor="ew-resize"
          style={{ left: `${wipe * 100}%` }}
          onPointerDown={wipeDown}
          aria-label="Wipe"
          data-testid="wipe"
        >
          <Box mx="auto" w="1px" h="100%" bg="accent" />
        </Box>
      )}
      {!ready && (
        <Text position="absolute" top="45%" left="0" right="0" px="6" textAlign="center" color="dim">
          The clip is being looked through; its pictures come as soon as the proxy is made.
        </Text>
      )}
      {footage && (
        <Text
          position="absolute"
          top="8px"
          left="12px"
          maxW="40%"
          truncate
          fontSize="sm"
          color="paper"
          textShadow="0 0 4px black"
        >
          {footage.name}
        </Text>
      )}
      <HStack position="absolute" top="4px" right="6px" gap="0">
        {head && (
          <NativeSelect.Root size="xs" w="112px">
            <NativeSelect.Field
              aria-label="Head over the footage"
              bg="bg.panel"
              value={over}
              onChange={(e) => setOver(e.target.value as Over)}
            >
              {Object.entries(OVER).map(([key, word]) => (
                <option key={key} value={key}>
                  {word}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        )}
        {points && head && (
          <Tool label="Tack points by hand" on={tacking} onClick={() => setTacking(!tacking)}>
            <TackSign />
          </Tool>
        )}
        <Tool label="Tracked points" on={marks} onClick={() => setMarks(!marks)}>
          <Crosshair size={16} />
        </Tool>
        <Tool
          label="Footage full screen"
          onClick={() =>
            void (document.fullscreenElement ? document.exitFullscreen() : holder.current?.requestFullscreen())
          }
        >
          <Maximize size={15} />
        </Tool>
      </HStack>
    </Box>
  );
}
