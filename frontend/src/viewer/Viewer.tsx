// The viewer: one to three views side by side that share time: the footage with what was tracked, the plain head, characters.
import { Box, Flex, HStack } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api } from "../api/client";
import { MarkerView } from "../markers/MarkerView";
import { SkeletonsView } from "../match/SkeletonsView";
import { useMatchState } from "../match/useMatch";
import { useSession } from "../workspace/workspace";
import { HeadView, useSolveOfHead } from "./CaptureHead";
import { CharacterView, type Other } from "./CharacterView";
import { FootageView } from "./FootageView";
import { useLive } from "./live";
import { LiveCharacter } from "./LiveCharacter";
import { LiveHead } from "./LiveHead";

export type View = "footage" | "markers" | "head" | "skeletons" | "character";
const WORDS: Record<View, string> = {
  footage: "Footage",
  markers: "Markers",
  head: "Head",
  skeletons: "Skeletons",
  character: "Character",
};
const MAX_VIEWS = 3;
type Choice = { key: string; word: string; view: React.ReactNode };

/** One to three views; which ones, of those that the take has, is chosen below them. */
/** showsTrails: whether trails of joints that are looked at are drawn. */
export function Viewer({ first, showsTrails = false }: { first: View[]; showsTrails?: boolean }) {
  const { production = "" } = useParams();
  const footage = useSession((s) => !!s.opened?.sources.footage);
  const markers = useSession((s) => !!s.opened?.sources.markers);
  const takes = useSession((s) => !!s.opened?.sources.curves);
  const mine = useSession((s) => s.opened?.character);
  const solved = !!useSolveOfHead();
  const matches = useMatchState((s) => s.shown) && takes;
  const characters =
    useQuery({ queryKey: ["characters", production], queryFn: () => api.characters(production), enabled: !!production })
      .data ?? [];
  const others: Other[] = takes
    ? characters.filter((c) => c.id !== mine?.id).map((c) => ({ id: c.id, name: c.name, source: c.source }))
    : [];
  const had: View[] = [
    ...(footage ? ["footage" as const] : []),
    ...(markers ? ["markers" as const] : []),
    ...(footage && solved ? ["head" as const] : []),
    ...(matches ? ["skeletons" as const] : []),
    "character",
  ];
  const choices: Choice[] = [
    ...had.map((v) => ({
      key: v,
      word: v === "character" && mine ? String(mine.body.name) : WORDS[v],
      view:
        v === "footage" ? (
          <FootageView />
        ) : v === "markers" ? (
          <MarkerView />
        ) : v === "head" ? (
          <HeadView />
        ) : v === "skeletons" ? (
          <SkeletonsView />
        ) : (
          <CharacterView showsTrails={showsTrails} likely={characters[0]?.source} />
        ),
    })),
    ...others.map((o) => ({ key: o.id, word: o.name, view: <CharacterView other={o} /> })),
  ];
  const [chosen, setChosen] = useState<Partial<Record<string, boolean>>>({});
  const key = first.join();
  useEffect(() => setChosen({}), [key]);
  const wanted = choices.filter((c) => chosen[c.key] ?? first.includes(c.key as View));
  const views = (wanted.length ? wanted : choices.slice(had.length - 1, had.length)).slice(0, MAX_VIEWS);
  const live = useLive((s) => s.on);
  const drivenOf = useLive((s) => s.driven.map((d) => d.of).join());
  const drives = useLive((s) => s.driven.length > 0);
  const seen = useLive((s) => s.weights.length > 0);
  if (live)
    return (
      <Flex h="100%" minW="0" gap="1px" bg="line">
        {(seen || !drives) && (
          <Box flex="1" minW="0" position="relative">
            <LiveHead />
          </Box>
        )}
        {drives &&
          drivenOf.split(",").map((of) => (
            <Box key={of} flex="1" minW="0" position="relative">
              <LiveCharacter of={of} />
            </Box>
          ))}
      </Flex>
    );
  const shown = (k: string) => views.some((v) => v.key === k);
  return (
    <Flex h="100%" minW="0" gap="1px" bg="line" position="relative">
      {views.map(({ key: name, view }) => (
        <Box key={name} flex="1" minW="0" position="relative" bg="bg.ground">
          {view}
        </Box>
      ))}
      {choices.length > 1 && (
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
          aria-label="Views"
        >
          {choices.map((c) => {
            const full = views.length >= MAX_VIEWS && !shown(c.key);
            return (
              <Box
                as="button"
                key={c.key}
                px="2"
                py="0.5"
                fontSize="xs"
                borderRadius="2px"
                cursor={full ? "not-allowed" : "pointer"}
                title={full ? "Three views at most: put one away first" : undefined}
                color={shown(c.key) ? "ink" : "dim"}
                bg={shown(c.key) ? "bg.pressed" : undefined}
                aria-pressed={shown(c.key)}
                aria-disabled={full}
                onClick={() => {
                  if (!full && (views.length > 1 || !shown(c.key))) setChosen({ ...chosen, [c.key]: !shown(c.key) });
                }}
              >
                {c.word}
              </Box>
            );
          })}
        </HStack>
      )}
    </Flex>
  );
}
