// The stage of a shot: its roles side by side as they stand, or each alone.
import { Box, HStack, Text } from "@chakra-ui/react";
import { Maximize } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { FramingTools, type Framing } from "./FramingTools";
import { api } from "../api/client";
import { clock } from "../playback/clock";
import { nameOfRole, rolesOf } from "../workspace/state";
import { activeShot, onSession, sessionState, useSession } from "../workspace/workspace";
import { drawScene } from "./drawScene";
import { setStage as setPictured } from "./stagePicture";
import { StageScene, type HeldPlace } from "./stageScene";
import { Tool } from "./Tool";

const NONE: string[] = [];

/** What taking hold of a face does, where it can be changed: a gesture that is told how far the pointer went, in pixels. */
export type Grab = {
  begin: (held: HeldPlace) => { move: (dx: number, dy: number, fine: boolean) => void; release: () => void } | null;
  /** What was changed last, in words. */
  words: string;
};
const REST = 70; // milliseconds that the pointer rests before a place lights up

export function ShotStage({ grab }: { grab: Grab | null }) {
  const shot = useSession((s) => s.shot);
  const roles = shot ? rolesOf(shot) : NONE;
  const [alone, setAlone] = useState<string | null>(null);
  const [framing, setFraming] = useState<Framing>("face");
  const [failed, setFailed] = useState(false);
  const [loaded, setLoaded] = useState("");
  const holder = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [stage, setStage] = useState<StageScene | null>(null);
  const shown = alone && roles.includes(alone) ? [alone] : roles;
  const sources = shown.map((role) => {
    const character = shot?.opened.shot.body.roles[role]?.character;
    return [role, shot?.opened.characters.find((c) => c.id === character)?.body.source ?? ""] as const;
  });
  const wanted = JSON.stringify(sources.filter(([, source]) => source));

  useEffect(() => {
    let made: StageScene;
    try {
      made = new StageScene(canvas.current!);
    } catch {
      setFailed(true);
      return;
    }
    const paint = () => {
      const now = sessionState().shot;
      for (const role of now ? rolesOf(now) : []) {
        const entry = now!.opened.shot.body.roles[role]!;
        const body = now!.bodies[role] ?? null;
        made.show(role, body, Math.min(clock.frame, (body?.weights.shape[0] ?? 1) - 1));
        made.stand(role, entry.at, entry.turn);
      }
      const props = Object.entries(now?.opened.shot.body.props ?? {});
      made.props.show(now?.props ?? null, Object.fromEntries(props.map(([k, p]) => [k, p.size])), clock.frame);
    };
    const drawn = drawScene(made, canvas.current!.parentElement!, paint, (redraw) => [
      clock.onMove(redraw),
      onSession(redraw),
    ]);
    setStage(made);
    setPictured(made, drawn.redraw);
    return () => {
      drawn.end();
      made.dispose();
      setStage(null);
      setPictured(null);
    };
  }, []);

  useEffect(() => {
    if (!stage) return;
    let gone = false;
    const list = JSON.parse(wanted) as [string, string][];
    stage.keep(list.map(([role]) => role));
    const load = async () => {
      await Promise.all(list.map(async ([role, source]) => stage.put(role, await api.media(source))));
      if (gone) return;
      const now = sessionState().shot;
      for (const [role] of list) {
        const entry = now?.opened.shot.body.roles[role];
        if (entry) stage.stand(role, entry.at, entry.turn);
        stage.show(role, now?.bodies[role] ?? null, 0);
      }
      stage.resize();
      stage.frame(stage.framing);
      setLoaded(wanted);
      clock.seekFrame(clock.frame);
    };
    void load().catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [stage, wanted]);

  const props = JSON.stringify(Object.entries(shot?.opened.shot.body.props ?? {}).map(([key, p]) => [key, p.source]));
  useEffect(() => {
    if (!stage) return;
    const list = JSON.parse(props) as [string, string][];
    stage.props.keep(list.map(([key]) => key));
    const load = async ([key, source]: [string, string]) => {
      if (stage.props.has(key, source)) return;
      await stage.props.put(key, source, () => api.media(source));
      clock.seekFrame(clock.frame); // draws it
    };
    for (const one of list) void load(one).catch(() => undefined);
  }, [stage, props]);

  const [lit, setLit] = useState<{ x: number; y: number } | null>(null);
  const resting = useRef(0);
  const at = (event: { clientX: number; clientY: number }) => {
    const box = canvas.current!.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top] as const;
  };
  const hover = (event: React.PointerEvent) => {
    window.clearTimeout(resting.current);
    if (event.target !== canvas.current) setLit(null);
    if (!grab || !stage || event.buttons || event.target !== canvas.current) return;
    const place = at(event);
    resting.current = window.setTimeout(() => setLit(stage.grabAt(...place)), REST);
  };
  const press = (event: React.PointerEvent) => {
    if (!grab || !stage || event.button !== 0 || event.altKey || event.target !== canvas.current) return;
    window.clearTimeout(resting.current);
    const held = stage.grabAt(...at(event));
    const gesture = held && grab.begin(held);
    if (!gesture) return;
    // The picture is not turned meanwhile.
    event.stopPropagation();
    const element = canvas.current;
    element.setPointerCapture(event.pointerId);
    const [x, y] = [event.clientX, event.clientY];
    const move = (e: PointerEvent) => {
      setLit({ x: held.x + e.clientX - x, y: held.y + e.clientY - y });
      gesture.move(e.clientX - x, e.clientY - y, e.shiftKey);
    };
    const release = () => {
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", release);
      element.removeEventListener("pointercancel", release);
      setLit(null);
      gesture.release();
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", release);
    element.addEventListener("pointercancel", release);
  };

  const frame = (what: Framing) => {
    setFraming(what);
    stage?.frame(what);
    stage?.render();
  };
  return (
    <Box
      ref={holder}
      position="absolute"
      inset="0"
      bg="bg.ground"
      onPointerDownCapture={press}
      onPointerMove={hover}
      onPointerLeave={() => setLit(null)}
    >
      {lit && (
        <Box
          position="absolute"
          left={`${lit.x - 6}px`}
          top={`${lit.y - 6}px`}
          w="12px"
          h="12px"
          borderRadius="full"
          borderWidth="2px"
          borderColor="paper"
          boxShadow="0 0 0 2px rgba(10, 20, 16, 0.7)"
          pointerEvents="none"
          zIndex={1}
          data-testid="grab-mark"
        />
      )}
      {grab?.words && (
        <Text
          position="absolute"
          top="8px"
          left="12px"
          right="110px"
          fontSize="sm"
          color="dim"
          pointerEvents="none"
          data-testid="grab-words"
        >
          {grab.words}
        </Text>
      )}
      <canvas
        ref={canvas}
        style={{ width: "100%", height: "100%", display: "block" }}
        data-testid="stage-canvas"
        data-loaded={!!shot && loaded === wanted && wanted !== "[]"}
        aria-label="Stage"
      />
      {failed && <Words>This browser draws no 3D. Turn on WebGL to see the stage.</Words>}
      {!shot && <Words>Open a shot, or begin one from takes, in the drawer.</Words>}
      {shot && !roles.length && <Words>No role yet. Put a clip of the reel in, at Clips.</Words>}
      {roles.length > 0 && (
        <HStack
          position="absolute"
          bottom="6px"
          left="10px"
          gap="0.5"
          bg="bg.panel"
          borderWidth="1px"
          borderColor="line"
          borderRadius="sm"
          p="1px"
          role="group"
          aria-label="Roles"
        >
          {roles.map((role) => {
            const on = shown.includes(role);
            return (
              <Box
                as="button"
                key={role}
                px="2"
                py="0.5"
                fontSize="xs"
                borderRadius="2px"
                cursor="pointer"
                color={shot!.role === role ? "accent" : on ? "ink" : "dim"}
                bg={shot!.role === role ? "bg.pressed" : undefined}
                aria-pressed={shot!.role === role}
                title="Work on this role"
                onClick={() => {
                  activeShot()?.choose(role);
                  if (alone) setAlone(role);
                }}
              >
                {nameOfRole(shot!, role)}
              </Box>
            );
          })}
          {roles.length > 1 && (
            <Box
              as="button"
              px="2"
              py="0.5"
              fontSize="xs"
              cursor="pointer"
              color={alone ? "accent" : "dim"}
              aria-pressed={!!alone}
              title="Show this role alone"
              onClick={() => setAlone(alone ? null : shot!.role)}
            >
              alone
            </Box>
          )}
        </HStack>
      )}
      <HStack position="absolute" top="4px" right="6px" gap="0">
        <FramingTools framing={framing} several onFrame={frame} />
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

function Words({ children }: { children: string }) {
  return (
    <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim" pointerEvents="none">
      {children}
    </Text>
  );
}
