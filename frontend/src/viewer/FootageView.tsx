// The footage of a take with what was tracked drawn over it, on the clock that everything shares.
import { Box, HStack, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Crosshair, Maximize } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { colourOf } from "../app/regions";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { useWorkspace } from "../workspace/workspace";
import { drawPoints, placed, videoTime } from "./footage";
import { Tool } from "./Tool";

export function FootageView() {
  const holder = useRef<HTMLDivElement>(null);
  const video = useRef<HTMLVideoElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [marks, setMarks] = useState(true);
  const footage = useWorkspace((s) => s.opened?.sources.footage);
  const solve = useWorkspace((s) => s.opened?.sources.curves?.info.solve) as { first: number } | undefined;
  const info = footage?.info as { width: number; height: number; rate: string; proxy?: string } | undefined;
  const ready = !!info?.proxy;
  const points = useQuery({ queryKey: ["points", footage?.id], queryFn: () => api.points(footage!.id), enabled: ready, staleTime: Infinity, retry: false }).data?.arrays.points;

  useEffect(() => {
    if (!info || !ready) return;
    const [over, under = 1] = info.rate.split("/").map(Number);
    const rate = over! / under;
    const first = solve?.first ?? 0;
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
      if (marks && points) drawPoints(context, points, Math.round(clock.time * rate) + first, placed(info.width, info.height, box.width, box.height), (region) => colourOf(region, false));
    });
    const watcher = new ResizeObserver(painter.invalidate);
    watcher.observe(canvas.current!);
    const off = [clock.onMove(painter.invalidate), clock.onChange(painter.invalidate)];
    return () => {
      off.forEach((f) => f());
      watcher.disconnect();
      painter.remove();
    };
  }, [info, ready, points, marks, solve?.first]);

  return (
    <Box ref={holder} position="absolute" inset="0" bg="bg.ground" data-testid="footage-view">
      {ready && <video ref={video} src={`/api/sources/${footage!.id}/proxy`} muted playsInline preload="auto" onSeeked={(e) => { if (canvas.current) canvas.current.dataset.shown = e.currentTarget.currentTime.toFixed(3); }} style={{ position: "absolute", width: "100%", height: "100%", objectFit: "contain" }} aria-label="Footage" />}
      <canvas ref={canvas} style={{ position: "absolute", width: "100%", height: "100%", pointerEvents: "none" }} data-points={points ? points.shape[0] : 0} data-testid="footage-points" />
      {!ready && <Text position="absolute" top="45%" left="0" right="0" px="6" textAlign="center" color="dim">The clip is being looked through; its pictures come as soon as the proxy is made.</Text>}
      {footage && <Text position="absolute" top="8px" left="12px" fontSize="sm" color="paper" textShadow="0 0 4px black">{footage.name}</Text>}
      <HStack position="absolute" top="4px" right="6px" gap="0">
        <Tool label="Tracked points" on={marks} onClick={() => setMarks(!marks)}><Crosshair size={16} /></Tool>
        <Tool label="Footage full screen" onClick={() => void (document.fullscreenElement ? document.exitFullscreen() : holder.current?.requestFullscreen())}><Maximize size={15} /></Tool>
      </HStack>
    </Box>
  );
}
