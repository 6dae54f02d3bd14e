// One character: the take's own, or another that plays the same take beside it.
import { Box, HStack, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Maximize, Sun } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { FramingTools, type Framing } from "./FramingTools";
import { api, type Piece } from "../api/client";
import { onTheme } from "../shared/colourMode";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { useWatched } from "../workspace/watched";
import { NOTHING_SHOWN, received, shownOf, type Body } from "../workspace/tables";
import { useSession, sessionState, onSession } from "../workspace/workspace";
import { CharacterScene } from "./scene";
import { Tool } from "./Tool";

export type Other = { id: string; name: string; source: string };
const PIECES: Piece[] = [{ part: "weights" }, { part: "motion" }, { part: "root" }, { part: "shifts" }];

/** How another character plays the open take: by the performer's sheet for it, or by what matches by itself. */
function useBodyOn(other: Other | undefined): Body | null {
  const opened = useSession((s) => s.opened);
  const key = ["played", opened?.take.id, opened?.take.version, opened?.join?.version, other?.id, other?.source];
  const found = useQuery({
    queryKey: key,
    enabled: !!other && !!opened?.sources.curves,
    staleTime: Infinity,
    gcTime: 60_000,
    queryFn: async () => {
      const made = await api.evaluate(opened!.take.id, { pieces: PIECES, character: other!.id });
      return shownOf(received({}, made)!, made.head, NOTHING_SHOWN).body;
    },
  });
  return found.data ?? null;
}

/** showsTrails: whether trails of joints that are looked at are drawn. */
export function CharacterView({ other, showsTrails = false }: { other?: Other; showsTrails?: boolean }) {
  const trails = useRef(showsTrails);
  const canvas = useRef<HTMLCanvasElement>(null);
  const holder = useRef<HTMLDivElement>(null);
  const scene = useRef<CharacterScene | null>(null);
  const redraw = useRef<() => void>(() => undefined);
  const second = useRef<Body | null>(null);
  const [framing, setFraming] = useState<Framing>("face");
  const [lighting, setLighting] = useState(false);
  const [loaded, setLoaded] = useState("");
  const [failed, setFailed] = useState(false);
  const opened = useSession((s) => s.opened);
  const own = opened?.character;
  const source = other ? other.source : own?.body.source;
  const name = other ? other.name : own ? own.body.name : "";
  const played = useBodyOn(other);
  const isOther = !!other;
  useEffect(() => {
    second.current = played;
    trails.current = showsTrails;
    redraw.current();
  }, [played, showsTrails]);

  useEffect(() => {
    let made: CharacterScene;
    try {
      made = new CharacterScene(canvas.current!, () => redraw.current());
    } catch {
      setFailed(true);
      return;
    }
    scene.current = made;
    const painter = addPainter(() => {
      const { body: mine, tried, opened: now, joints } = sessionState();
      const body = isOther ? second.current : mine;
      made.pose(body, Math.min(clock.frame, (body?.weights.shape[0] ?? 1) - 1), isOther ? {} : tried);
      const trailing = trails.current && !isOther ? joints : null;
      made.trail(trailing, useWatched.getState().joints, clock.frame);
      // Between takes the character stands at rest for a moment; the camera waits for the new take's motion.
      if (now && (body || !now.sources.curves)) made.follow();
      made.render();
    });
    redraw.current = painter.invalidate;
    const ground = () => {
      made.setTheme();
      painter.invalidate();
    };
    ground();
    const watcher = new ResizeObserver(() => {
      made.resize();
      painter.invalidate();
    });
    watcher.observe(canvas.current!.parentElement!);
    const off = [
      clock.onMove(painter.invalidate),
      onSession(painter.invalidate),
      onTheme(ground),
      useWatched.subscribe(painter.invalidate),
    ];
    return () => {
      off.forEach((f) => f());
      watcher.disconnect();
      painter.remove();
      made.dispose();
      scene.current = null;
    };
  }, [isOther]);

  useEffect(() => {
    if (!source || !scene.current) return;
    let gone = false;
    void api.media(source).then(
      async (raw) => {
        if (gone || !scene.current) return;
        await scene.current.load(raw);
        if (gone || !scene.current) return;
        const { body, tried } = sessionState();
        scene.current.pose(isOther ? second.current : body, clock.frame, isOther ? {} : tried);
        scene.current.frame(scene.current.framing);
        setLoaded(source);
        redraw.current();
      },
      () => undefined,
    );
    return () => {
      gone = true;
    };
  }, [source, isOther]);

  const frame = (what: Framing) => {
    setFraming(what);
    scene.current?.frame(what);
    redraw.current();
  };

  const light = (event: React.PointerEvent) => {
    if (!lighting) return;
    const element = event.currentTarget;
    element.setPointerCapture(event.pointerId);
    let [x, y] = [event.clientX, event.clientY];
    const move = (e: Event) => {
      const p = e as PointerEvent;
      scene.current?.setLight((p.clientX - x) * 0.01, (y - p.clientY) * 0.008);
      [x, y] = [p.clientX, p.clientY];
      redraw.current();
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", () => element.removeEventListener("pointermove", move), { once: true });
  };

  return (
    <Box ref={holder} position="absolute" inset="0" bg="bg.ground">
      <canvas
        ref={canvas}
        style={{ width: "100%", height: "100%", display: "block" }}
        data-testid={isOther ? "viewer-other" : "viewer-canvas"}
        data-loaded={loaded === source && !!source}
        data-plays={isOther ? played !== null : undefined}
        aria-label={isOther ? name : "Character"}
      />
      {lighting && (
        <Box position="absolute" inset="0" cursor="move" onPointerDown={light} data-testid="light-pad">
          <Text position="absolute" bottom="10px" left="0" right="0" textAlign="center" fontSize="sm" color="dim">
            Drag to move the key light
          </Text>
        </Box>
      )}
      {failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          This browser draws no 3D. Turn on WebGL to see the character.
        </Text>
      )}
      {!source && opened && !failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          No character yet. Bring one in (.glb) at the Cast desk.
        </Text>
      )}
      {!opened && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          Open a take to see it played.
        </Text>
      )}
      {name && (
        <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">
          {name}
        </Text>
      )}
      <HStack position="absolute" top="4px" right="6px" gap="0">
        <FramingTools framing={framing} onFrame={frame} />
        {!isOther && (
          <Tool label="Move the key light" on={lighting} onClick={() => setLighting(!lighting)}>
            <Sun size={16} />
          </Tool>
        )}
        <Tool
          label="Full screen"
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
