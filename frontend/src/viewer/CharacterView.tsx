// One character: the take's own, or another that plays the same take beside it.
import { Box, HStack, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Maximize, Sun } from "lucide-react";
import { useRef, useState } from "react";
import { FramingTools } from "./FramingTools";
import { api, type Piece } from "../api/client";
import { clock } from "../playback/clock";
import { useWatched } from "../workspace/watched";
import { NOTHING_SHOWN, received, shownOf, type Body } from "../workspace/tables";
import { useSession, sessionState, onSession } from "../workspace/workspace";
import { Tool } from "./Tool";
import { useCharacter } from "./useCharacter";

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

type Props = { other?: Other; showsTrails?: boolean; likely?: string };

/** showsTrails: whether trails of joints that are looked at are drawn; likely: the source of the model that is probably seen next where
 * none is yet. */
export function CharacterView({ other, showsTrails = false, likely }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const holder = useRef<HTMLDivElement>(null);
  const [lighting, setLighting] = useState(false);
  const opened = useSession((s) => s.opened);
  const own = opened?.character;
  const source = other ? other.source : own?.body.source;
  const name = other ? other.name : own ? own.body.name : "";
  const played = useBodyOn(other);
  const isOther = !!other;
  const character = useCharacter(
    box,
    source ?? "",
    (scene) => {
      const { body: mine, tried, opened: now, joints } = sessionState();
      const body = isOther ? played : mine;
      scene.pose(body, Math.min(clock.frame, (body?.weights.shape[0] ?? 1) - 1), isOther ? {} : tried);
      scene.trail(showsTrails && !isOther ? joints : null, useWatched.getState().joints, clock.frame);
      // Between takes the character stands at rest for a moment; the camera waits for the new take's motion.
      if (now && (body || !now.sources.curves)) scene.follow();
    },
    (redraw) => [clock.onMove(redraw), onSession(redraw), useWatched.subscribe(redraw)],
    likely,
  );
  const { failed } = character;

  const light = (event: React.PointerEvent) => {
    if (!lighting) return;
    const element = event.currentTarget;
    element.setPointerCapture(event.pointerId);
    let [x, y] = [event.clientX, event.clientY];
    const move = (e: Event) => {
      const p = e as PointerEvent;
      character.scene()?.setLight((p.clientX - x) * 0.01, (y - p.clientY) * 0.008);
      [x, y] = [p.clientX, p.clientY];
      character.redraw();
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", () => element.removeEventListener("pointermove", move), { once: true });
  };

  return (
    <Box ref={holder} position="absolute" inset="0" bg="bg.ground">
      <Box
        ref={box}
        position="absolute"
        inset="0"
        data-testid={isOther ? "viewer-other" : "viewer-canvas"}
        data-loaded={character.ready}
        data-plays={isOther ? played !== null : undefined}
        role="img"
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
          {failed}
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
        <FramingTools framing={character.framing} onFrame={character.frame} />
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
