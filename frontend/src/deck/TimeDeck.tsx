// The deck of the open take: which tracks it has at this desk, and what their gestures mean.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { useRegister } from "../commands/useRegister";
import { KEY_COMMANDS } from "../keys/keyCommands";
import { handOf } from "../keys/keys";
import { clock } from "../playback/clock";
import { useCatalogue } from "../shared/catalogue";
import { onTheme, useLight } from "../shared/colourMode";
import { choose, lookedThrough, useSnags } from "../snags/snags";
import { Deck, type DeckHandle } from "../timekit/Deck";
import { timecodeStart, type Unit } from "../timekit/timeAxis";
import type { Track } from "../timekit/track";
import { curveTrack } from "../timekit/tracks/curves";
import { differenceTrack } from "../timekit/tracks/difference";
import { flagTrack } from "../timekit/tracks/flags";
import { rulerTrack } from "../timekit/tracks/ruler";
import { spanTrack } from "../timekit/tracks/spans";
import { standTrack } from "../timekit/tracks/stands";
import { useStands } from "../contacts/useStands";
import { waveTrack } from "../timekit/tracks/wave";
import { useTrial } from "../workspace/trial";
import { useWatched } from "../workspace/watched";
import {
  activeSession,
  edit,
  preview,
  useOpen,
  useSession,
  type Held,
  type SessionState,
} from "../workspace/workspace";
import { jointLanes } from "./jointLanes";
import { CurveNames } from "./CurveNames";
import { deckCommands } from "./deckCommands";
import {
  contactSpans,
  deckCurves,
  faultMarks,
  frameFaults,
  nextFault,
  Pyramids,
  rangeOfCurves,
  snagFlags,
} from "./deckModel";
import { DeckTools } from "./DeckTools";
import { headWeightTrack, useHeadDrag } from "./headWeight";
import { Transport } from "./Transport";
import { useKeyTools } from "./useKeyTools";
import { useWave } from "./useWave";

type Props = { movesSound?: boolean; editsKeys?: boolean; showsContacts?: boolean; onHeld?: (span: Held) => void };
/** Where the sound is being dragged to. */
class Hands {
  offset: number | null = null;
  slide(offset: number | null) {
    this.offset = offset;
  }
}

const NO_COMMANDS: never[] = [];

export function TimeDeck({ movesSound = false, editsKeys = false, showsContacts = false, onHeld }: Props) {
  const { opened, curves, selected, comparing, against, body } = useOpen(
    "opened",
    "curves",
    "selected",
    "comparing",
    "against",
    "body",
  );
  const joints = useSession((s) => s.joints);
  const { regionOf } = useCatalogue();
  const [kept] = useState(() => new Pyramids());
  const [unit, setUnit] = useState<Unit>("frames");
  const [deck, setDeck] = useState<DeckHandle | null>(null);
  const [hands] = useState(() => new Hands());
  const { list: found, chosen: looked } = useSnags();
  const trial = useTrial();
  const light = useLight();
  const sound = opened?.sources.sound?.id;
  const peaks = useWave(sound);
  const take = opened?.take.body;
  const other =
    against && curves && against.raw.data.length === curves.tidied.data.length ? against.raw.data : undefined;

  const shown = useMemo(
    () => (curves ? deckCurves(curves, selected, regionOf, light, kept, other) : []),
    [curves, selected, regionOf, light, kept, other],
  );
  const faults = useMemo(
    () => (curves ? frameFaults(curves, (opened?.sources.curves?.info.faults as never[]) ?? []) : []),
    [curves, opened],
  );
  const watched = useWatched((s) => s.joints);
  const lanesOfJoints = useMemo(
    () => (showsContacts ? jointLanes(joints, watched, light, kept) : []),
    [showsContacts, joints, watched, light, kept],
  );
  const range = useMemo(() => rangeOfCurves(shown), [shown]);
  const keyTools = useKeyTools(shown, editsKeys ? handOf(take) : null, activeSession);
  const start = useMemo(
    () => (curves ? timecodeStart(curves.timecode, curves.timecodeRate || curves.rateText) : null),
    [curves],
  );

  const slide = (offset: number) => {
    hands.slide(offset);
    clock.setSoundOffset(offset);
  };
  const flags = snagFlags(found?.snags ?? [], looked, curves?.frames ?? 1, light);
  const contacts = onHeld && body ? contactSpans(body) : null;
  const contactRows = useStands(showsContacts);
  const headDrag = useHeadDrag((s) => s.key);
  const headLine =
    showsContacts && opened?.sources.body
      ? headWeightTrack({
          weight: opened.join.body.headWeight,
          path: "headWeight",
          drag: headDrag,
          onTry: (changes) => void preview({ join: changes }),
          onKeep: (label, changes) => edit("join", label, changes),
        })
      : null;
  const tracks: Track[] = [
    rulerTrack,
    flagTrack(faultMarks(faults), flags, (key) =>
      choose(lookedThrough(), found!.snags.find((s) => s.key === key) ?? null),
    ),
    waveTrack({
      peaks,
      offset: () => hands.offset ?? take?.soundOffset ?? 0,
      ...(movesSound && {
        onMove: slide,
        onDrop: (offset: number) => void keepSound(offset).finally(() => hands.slide(null)),
      }),
    }),
    ...lanesOfJoints,
    ...(contacts
      ? [spanTrack(2, contacts.spans, contacts.marks, (key) => onHeld!(body!.kept.find((k) => k.key === key)!))]
      : []),
    ...(contactRows && contactRows.stands.length + contactRows.byHand ? [standTrack(contactRows.rows)] : []),
    ...(headLine ? [headLine] : []),
    curveTrack({ curves: shown, range, comparing, rawName: other ? against!.name : "raw", ...keyTools }),
    ...(other && comparing && shown.length ? [differenceTrack(shown)] : []),
  ];

  const commands = useMemo(
    () =>
      deckCommands(
        () => deck,
        (backward) => {
          const next = nextFault(faults, clock.frame, backward);
          if (next !== undefined) clock.seekFrame(next);
        },
      ),
    [faults, deck],
  );
  useRegister(commands);
  useRegister(editsKeys ? KEY_COMMANDS : NO_COMMANDS);
  const frames = curves?.frames ?? clock.frames;
  return (
    <Flex direction="column" h="100%" bg="bg.deck" data-testid="time-deck">
      <Transport unit={unit} onUnit={setUnit} start={start} frames={frames} onFit={() => deck?.fit()}>
        {editsKeys && <DeckTools />}
      </Transport>
      <CurveNames curves={shown} />
      <Flex position="relative" flex="1" minH="0">
        <Deck
          tracks={tracks}
          timeline={clock}
          unit={unit}
          start={start}
          shows={`${opened?.take.id} ${frames}`}
          onTheme={onTheme}
          onSeen={(first, last) => {
            const session = activeSession();
            if (session) session.seen = { first, last };
          }}
          handle={setDeck}
          label="Time deck"
        />
        {!curves && opened && <NoCurves sources={opened.sources} />}
        {trial.name && (
          <Box
            position="absolute"
            top="2px"
            right="10px"
            bg="accent"
            color="accentInk"
            fontWeight="600"
            px="2"
            borderRadius="sm"
            pointerEvents="none"
            data-testid="trial"
          >
            {trial.showing}: {trial.name}
          </Box>
        )}
      </Flex>
    </Flex>
  );
}

const keepSound = (offset: number) => edit("take", "slide the sound", [{ path: "soundOffset", value: offset }]);

function NoCurves({ sources }: { sources: NonNullable<SessionState["opened"]>["sources"] }) {
  return (
    <Text position="absolute" top="50%" left="0" right="0" textAlign="center" color="dim" pointerEvents="none">
      This take has no curves yet.{" "}
      {sources.footage
        ? "Solve its clip at the Solve desk."
        : sources.markers
          ? "Solve its markers at the Solve desk."
          : "Bring in a curve table at the Gather desk."}
    </Text>
  );
}
