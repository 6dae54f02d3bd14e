// What the pointer does over footage with dots: the next one is picked, or a followed one is taken hold of and put where it belongs.
import { Box, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, type RefObject } from "react";
import type { Table } from "../api/bundle";
import { api, type DotsDoc } from "../api/client";
import { notify } from "../shared/notices";
import { clock } from "../playback/clock";
import { inPicture, placed } from "../viewer/footage";
import { edit, tellHistory, sessionState } from "../workspace/workspace";
import { nameFor, type Correction } from "./byHand";
import { nextPlace, useDotState } from "./dots";
import { nearest } from "./geometry";

export type Followed = { labels: string[]; points: Table };
type Props = {
  canvas: RefObject<HTMLCanvasElement | null>;
  width: number;
  height: number;
  first: number;
  layout: DotsDoc;
  followed: Followed | null;
};
const REACH = 14; // CSS pixels about a dot
const MOVED = 3;

export function DotPads(props: Props) {
  const { picking, dot, putting } = useDotState();
  const asking = !!picking || putting;
  useEffect(() => {
    if (!asking) return;
    const leave = (event: KeyboardEvent) =>
      event.key === "Escape" && useDotState.setState({ picking: null, putting: false });
    window.addEventListener("keydown", leave);
    return () => window.removeEventListener("keydown", leave);
  }, [asking]);
  if (picking) return <PickPad {...props} place={picking} />;
  return props.followed ? <HandPad {...props} followed={props.followed} dot={dot} putting={putting} /> : null;
}

/** Where an event is in the picture. */
function seen({ canvas, width, height }: Props, event: { clientX: number; clientY: number }) {
  const box = canvas.current!.getBoundingClientRect();
  const at = placed(width, height, box.width, box.height);
  const [left, top] = [event.clientX - box.left, event.clientY - box.top];
  return { ...inPicture(at, left, top), left, top, at };
}

function PickPad(props: Props & { place: string }) {
  const { layout, first, place } = props;
  const client = useQueryClient();
  const { mirror } = useDotState();
  const pick = async (event: React.MouseEvent) => {
    clock.pause();
    const { x, y } = seen(props, event);
    try {
      const next = await api.pickDot(layout.id, { frame: clock.frame + first, x, y, place, mirror });
      useDotState.setState({ picking: nextPlace(next.body, place) });
      await client.invalidateQueries({ queryKey: ["dots"] });
      tellHistory();
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <Box position="absolute" inset="0" cursor="crosshair" onClick={(e) => void pick(e)} data-testid="dot-pad">
      <Said>
        Click the dot on the <b>{place}</b>
      </Said>
    </Box>
  );
}

function HandPad(props: Props & { followed: Followed; dot: string | null; putting: boolean }) {
  const { layout, first, followed, dot, putting } = props;
  const set = useDotState.setState;
  const put = (label: string, frame: number, x: number, y: number) => {
    const made: Correction = {
      kind: "put",
      layout: layout.id,
      dot: label,
      frame,
      at: [x, y].map((v) => Math.round(Math.max(v, 0) * 100) / 100) as [number, number],
    };
    const body = sessionState().opened!.take.body;
    return edit("take", `put ${label} at frame ${frame}`, [{ path: `dots/${nameFor(body, made)}`, value: made }]);
  };
  const down = (event: React.PointerEvent<HTMLDivElement>) => {
    const frame = clock.frame + first;
    const begun = seen(props, event);
    if (putting && dot) {
      set({ putting: false });
      void put(dot, frame, begun.x - 0.5, begun.y - 0.5);
      return;
    }
    const { labels, points } = followed;
    const held = Math.min(frame, points.shape[0]! - 1) * labels.length * 2;
    const places = Float32Array.from(
      { length: labels.length * 2 },
      (_, i) => (i % 2 ? begun.at.top : begun.at.left) + (points.data[held + i]! + 0.5) * begun.at.scale,
    );
    const found = labels[nearest(places, begun.left, begun.top, REACH)];
    if (!found) return;
    clock.pause();
    set({ dot: found });
    const element = event.currentTarget;
    let last: { x: number; y: number } | null = null;
    const move = (e: PointerEvent) => {
      const now = seen(props, e);
      if (!last && Math.hypot(now.left - begun.left, now.top - begun.top) < MOVED) return;
      last = { x: now.x - 0.5, y: now.y - 0.5 };
      set({ dragged: { dot: found, ...last } });
    };
    element.setPointerCapture(event.pointerId);
    element.addEventListener("pointermove", move);
    element.addEventListener(
      "pointerup",
      () => {
        element.removeEventListener("pointermove", move);
        if (last) void put(found, frame, last.x, last.y).finally(() => set({ dragged: null }));
      },
      { once: true },
    );
  };
  return (
    <Box
      position="absolute"
      inset="0"
      cursor={putting ? "crosshair" : "default"}
      onPointerDown={down}
      data-testid="hand-pad"
    >
      {putting && dot && (
        <Said>
          Click where <b>{dot}</b> is in this frame
        </Said>
      )}
    </Box>
  );
}

function Said({ children }: { children: React.ReactNode }) {
  return (
    <Text
      position="absolute"
      bottom="34px"
      left="0"
      right="0"
      textAlign="center"
      fontSize="sm"
      color="paper"
      textShadow="0 0 4px black"
    >
      {children}
    </Text>
  );
}
