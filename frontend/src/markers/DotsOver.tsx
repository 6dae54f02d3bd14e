// Over the footage: the dots that are followed, where they were put by hand, and what is of their colours.
import { useEffect, useRef, type RefObject } from "react";
import { colourOf } from "../shared/regions";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { placed } from "../viewer/footage";
import { useSession } from "../workspace/workspace";
import { correctionsOf } from "./byHand";
import { DotPads } from "./DotPads";
import { masked, useDots, useDotSolve, useDotState } from "./dots";

type Props = { film: RefObject<HTMLVideoElement | null>; width: number; height: number; first: number; source: string };

export function DotsOver({ film, width, height, first, source }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { picking, mask, tolerance, open, dot: chosen, dragged } = useDotState();
  const { layout, body, chart } = useDots();
  const solved = useDotSolve();
  const [points, labels] = [solved?.points, solved?.report.labels];
  const take = useSession((s) => s.opened?.take.body);
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
        masked(
          pixels.data,
          Object.values(body.dots).map((d) => d.colour),
          tolerance ?? body.tolerance,
        );
        s.putImageData(pixels, 0, 0);
        c.drawImage(small, at.left, at.top, width * at.scale, height * at.scale);
      }
      const region = Object.fromEntries(chart.map((p) => [p.name, p.region]));
      const own = body?.footage === source;
      const puts =
        layout && take
          ? correctionsOf(take, layout.id).flatMap(({ made }) =>
              made.kind === "put" && made.frame === clock.frame + first ? [made] : [],
            )
          : [];
      for (const [label, dot] of Object.entries(body?.dots ?? {})) {
        const n = labels?.indexOf(label) ?? -1;
        const frame = Math.min(Math.max(clock.frame, 0), (points?.shape[0] ?? 1) - 1);
        const base = (frame * (labels?.length ?? 0) + n) * 2;
        const put = puts.find((p) => p.dot === label);
        const here =
          dragged?.dot === label
            ? [dragged.x, dragged.y]
            : put
              ? put.at
              : points && n >= 0
                ? [points.data[base]!, points.data[base + 1]!]
                : own
                  ? dot.at
                  : [NaN, NaN];
        if (here[0] !== here[0]) continue;
        const [x, y, r] = [
          at.left + (here[0]! + 0.5) * at.scale,
          at.top + (here[1]! + 0.5) * at.scale,
          Math.max(dot.radius * at.scale, 4) + 2,
        ];
        c.lineWidth = 3.5;
        c.strokeStyle = "rgba(8, 14, 12, 0.75)";
        c.setLineDash(n >= 0 ? [] : [3, 3]);
        for (const style of [c.strokeStyle, colourOf(region[dot.place] ?? "head", false)]) {
          c.strokeStyle = c.fillStyle = style;
          c.beginPath();
          c.arc(x, y, r, 0, Math.PI * 2);
          c.stroke();
          c.lineWidth = open && label === chosen ? 3 : 1.75;
        }
        if (put) c.fillRect(x - 1.5, y - 1.5, 3, 3);
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
  }, [
    shown,
    open,
    mask,
    tolerance,
    body,
    chart,
    points,
    labels,
    film,
    width,
    height,
    source,
    first,
    layout,
    take,
    chosen,
    dragged,
  ]);

  if (!shown) return null;
  return (
    <>
      <canvas
        ref={canvas}
        style={{ position: "absolute", width: "100%", height: "100%", pointerEvents: "none" }}
        data-testid="dots-over"
      />
      {open && layout && (picking ? body?.footage === source : solved?.layout === layout.id) && (
        <DotPads
          canvas={canvas}
          width={width}
          height={height}
          first={first}
          layout={layout}
          followed={points && labels ? { labels, points } : null}
        />
      )}
    </>
  );
}
