// The viewer: one to three views side by side that share time: the footage with what was tracked, the character.
import { Box, Flex, HStack, Text } from "@chakra-ui/react";
import { Maximize, PersonStanding, ScanFace, Sun } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { onTheme } from "../app/colourMode";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { useWorkspace } from "../workspace/workspace";
import { HeadView, useSolveOfHead } from "./CaptureHead";
import { FootageView } from "./FootageView";
import { useLive } from "./live";
import { LiveCharacter } from "./LiveCharacter";
import { LiveHead } from "./LiveHead";
import { CharacterScene } from "./scene";
import { Tool } from "./Tool";

const VIEWS = { footage: FootageView, head: HeadView, character: CharacterView };
export type View = keyof typeof VIEWS;
const WORDS: Record<View, string> = { footage: "Footage", head: "Head", character: "Character" };

/** One to three views; which ones, of those that the take has, is chosen below them. */
export function Viewer({ first }: { first: View[] }) {
  const footage = useWorkspace((s) => !!s.opened?.sources.footage);
  const solved = !!useSolveOfHead();
  const had: View[] = footage ? (solved ? ["footage", "head", "character"] : ["footage", "character"]) : ["character"];
  const [chosen, setChosen] = useState<Partial<Record<View, boolean>>>({});
  const key = first.join();
  useEffect(() => setChosen({}), [key]);
  const wanted = had.filter((v) => chosen[v] ?? first.includes(v));
  const views = wanted.length ? wanted : had.slice(-1);
  const live = useLive((s) => s.on);
  const drives = useLive((s) => s.driven !== null);
  if (live) return <Flex h="100%" minW="0" gap="1px" bg="line"><Box flex="1" minW="0" position="relative"><LiveHead /></Box>{drives && <Box flex="1" minW="0" position="relative"><LiveCharacter /></Box>}</Flex>;
  return (
    <Flex h="100%" minW="0" gap="1px" bg="line" position="relative">
      {views.map((name) => {
        const View = VIEWS[name];
        return <Box key={name} flex="1" minW="0" position="relative" bg="bg.ground"><View /></Box>;
      })}
      {had.length > 1 && (
        <HStack position="absolute" bottom="6px" left="10px" gap="0.5" bg="bg.panel" borderWidth="1px" borderColor="line" borderRadius="sm" p="1px" role="group" aria-label="Views">
          {had.map((v) => <Box as="button" key={v} px="2" py="0.5" fontSize="xs" borderRadius="2px" cursor="pointer" color={views.includes(v) ? "ink" : "dim"} bg={views.includes(v) ? "bg.pressed" : undefined} aria-pressed={views.includes(v)} onClick={() => { if (views.length > 1 || !views.includes(v)) setChosen({ ...chosen, [v]: !views.includes(v) }); }}>{WORDS[v]}</Box>)}
        </HStack>
      )}
    </Flex>
  );
}

function CharacterView() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const holder = useRef<HTMLDivElement>(null);
  const scene = useRef<CharacterScene | null>(null);
  const redraw = useRef<() => void>(() => undefined);
  const [framing, setFraming] = useState<"face" | "body">("face");
  const [lighting, setLighting] = useState(false);
  const [loaded, setLoaded] = useState("");
  const [failed, setFailed] = useState(false);
  const character = useWorkspace((s) => s.opened?.character);
  const opened = useWorkspace((s) => s.opened);
  const source = character?.body.source as string | undefined;

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
      const { body, tried, opened: now } = useWorkspace.getState();
      made.pose(body, clock.frame, tried);
      // Between takes the character stands at rest for a moment; the camera waits for the new take's motion.
      if (now && (body || !now.sources.curves)) made.follow();
      made.render();
    });
    redraw.current = painter.invalidate;
    const ground = () => {
      made.setBackground(document.documentElement.classList.contains("light") ? "#cfd3c6" : "#15231e");
      painter.invalidate();
    };
    ground();
    const watcher = new ResizeObserver(() => {
      made.resize();
      painter.invalidate();
    });
    watcher.observe(canvas.current!.parentElement!);
    const off = [clock.onMove(painter.invalidate), useWorkspace.subscribe(painter.invalidate), onTheme(ground)];
    return () => {
      off.forEach((f) => f());
      watcher.disconnect();
      painter.remove();
      made.dispose();
      scene.current = null;
    };
  }, []);

  useEffect(() => {
    if (!source || !scene.current) return;
    let gone = false;
    void api.media(source).then(async (raw) => {
      if (gone || !scene.current) return;
      await scene.current.load(raw);
      if (gone || !scene.current) return;
      const { body, tried } = useWorkspace.getState();
      scene.current.pose(body, clock.frame, tried);
      scene.current.frame(scene.current.framing);
      setLoaded(source);
      redraw.current();
    }, () => undefined);
    return () => {
      gone = true;
    };
  }, [source]);

  const frame = (what: "face" | "body") => {
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
      <canvas ref={canvas} style={{ width: "100%", height: "100%", display: "block" }} data-testid="viewer-canvas" data-loaded={loaded === source && !!source} aria-label="Character" />
      {lighting && <Box position="absolute" inset="0" cursor="move" onPointerDown={light} data-testid="light-pad"><Text position="absolute" bottom="10px" left="0" right="0" textAlign="center" fontSize="sm" color="dim">Drag to move the key light</Text></Box>}
      {failed && <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">This browser draws no 3D. Turn on WebGL to see the character.</Text>}
      {!source && opened && !failed && <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">No character yet. Bring one in (.glb) at the Cast desk.</Text>}
      {!opened && <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">Open a take to see it played.</Text>}
      {character && <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">{String(character.body.name)}</Text>}
      <HStack position="absolute" top="4px" right="6px" gap="0">
        <Tool label="Frame the face" on={framing === "face"} onClick={() => frame("face")}><ScanFace size={16} /></Tool>
        <Tool label="Frame the body" on={framing === "body"} onClick={() => frame("body")}><PersonStanding size={16} /></Tool>
        <Tool label="Move the key light" on={lighting} onClick={() => setLighting(!lighting)}><Sun size={16} /></Tool>
        <Tool label="Full screen" onClick={() => void (document.fullscreenElement ? document.exitFullscreen() : holder.current?.requestFullscreen())}><Maximize size={15} /></Tool>
      </HStack>
    </Box>
  );
}
