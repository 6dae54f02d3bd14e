// Over the footage: the dots that are followed, what is of their colours, and a pad on which the next dot is picked.
import { Box, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, type RefObject } from "react";
import { api } from "../api/client";
import { colourOf } from "../app/regions";
import { notify } from "../app/notices";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { inPicture, placed } from "../viewer/footage";
import { tellHistory } from "../workspace/workspace";
import { dotsOf, masked, nextPlace, useDots, useDotSolve, useDotState } from "./dots";

type Props = { film: RefObject<HTMLVideoElement | null>; width: number; height: number; first: number; source: string };

export function DotsOver({ film, width, height, first, source }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const client = useQueryClient();
  const { picking, mirror, mask, tolerance, open } = useDotState();
  const { layout, body, chart } = useDots();
  const solved = useDotSolve();
  const made = useQuery({ queryKey: ["followed dots", solved], queryFn: () => api.followedDots(solved!), enabled: !!solved, staleTime: Infinity, retry: false }).data;
  const shown = open || !!solved;

  useEffect(() => {
    if (!shown) return;
    const small = document.createElement("canvas");
    small.width = width;
    small.height = height;
    const painter = addPainter(() => {
      const sheet = canvas.current;
      const c = sheet?.getContext("2d");
      if (!sheet || !c) return;
      const ratio = window.devicePixelRatio || 1;
      const box = sheet.getBoundingClientRect();
      sheet.width = Math.round(box.width * ratio);
      sheet.height = Math.round(box.height * ratio);
      c.setTransform(ratio, 0, 0, ratio, 0, 0);
      const at = placed(width, height, box.width, box.height);
      if (open && mask && body && film.current?.videoWidth) {
        const s = small.getContext("2d", { willReadFrequently: true })!;
        s.drawImage(film.current, 0, 0, width, height);
        const pixels = s.getImageData(0, 0, width, height);
        masked(pixels.data, Object.values(body.dots).map((d) => d.colour), tolerance ?? body.tolerance);
        s.putImageData(pixels, 0, 0);
        c.drawImage(small, at.left, at.top, width * at.scale, height * at.scale);
      }
      const region = Object.fromEntries(chart.map((p) => [p.name, p.region]));
      const points = made?.arrays.points;
      const labels = (made?.head.labels ?? []) as string[];
      const own = body?.footage === source;
      for (const [label, dot] of Object.entries(body?.dots ?? {})) {
        const n = labels.indexOf(label);
        const frame = Math.min(Math.max(clock.frame, 0), (points?.shape[0] ?? 1) - 1);
        const here = points && n >= 0 ? [points.data[(frame * labels.length + n) * 2]!, points.data[(frame * labels.length + n) * 2 + 1]!] : own ? dot.at : [NaN, NaN];
        if (here[0] !== here[0]) continue;
        const [x, y, r] = [at.left + (here[0]! + 0.5) * at.scale, at.top + (here[1]! + 0.5) * at.scale, Math.max(dot.radius * at.scale, 4) + 2];
        c.lineWidth = 3.5;
        c.strokeStyle = "rgba(8, 14, 12, 0.75)";
        c.setLineDash(n >= 0 ? [] : [3, 3]);
        for (const style of [c.strokeStyle, colourOf(region[dot.place] ?? "head", false)]) {
          c.strokeStyle = style;
          c.beginPath();
          c.arc(x, y, r, 0, Math.PI * 2);
          c.stroke();
          c.lineWidth = 1.75;
        }
      }
      c.setLineDash([]);
      sheet.dataset.dots = String(Object.keys(body?.dots ?? {}).length);
    });
    const watched = film.current;
    const off = [clock.onMove(painter.invalidate), clock.onChange(painter.invalidate)];
    watched?.addEventListener("seeked", painter.invalidate);
    const watcher = new ResizeObserver(painter.invalidate);
    watcher.observe(canvas.current!);
    return () => {
      off.forEach((f) => f());
      watched?.removeEventListener("seeked", painter.invalidate);
      watcher.disconnect();
      painter.remove();
    };
  }, [shown, open, mask, tolerance, body, chart, made, film, width, height, source]);

  const pick = async (event: React.MouseEvent) => {
    if (!layout || !picking) return;
    clock.pause();
    const box = canvas.current!.getBoundingClientRect();
    const { x, y } = inPicture(placed(width, height, box.width, box.height), event.clientX - box.left, event.clientY - box.top);
    try {
      const next = await api.pickDot(layout.id, { frame: clock.frame + first, x, y, place: picking, mirror });
      useDotState.setState({ picking: nextPlace(dotsOf(next), picking) });
      await client.invalidateQueries({ queryKey: ["dots"] });
      tellHistory();
    } catch (error) {
      notify(error as never);
    }
  };
  if (!shown) return null;
  return (
    <>
      <canvas ref={canvas} style={{ position: "absolute", width: "100%", height: "100%", pointerEvents: "none" }} data-testid="dots-over" />
      {open && picking && layout && body?.footage === source && (
        <Box position="absolute" inset="0" cursor="crosshair" onClick={(e) => void pick(e)} data-testid="dot-pad"><Text position="absolute" bottom="34px" left="0" right="0" textAlign="center" fontSize="sm" color="paper" textShadow="0 0 4px black">Click the dot on the <b>{picking}</b></Text></Box>
      )}
    </>
  );
}
