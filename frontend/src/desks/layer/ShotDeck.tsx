// The deck of a shot: sound, clips by role, layers of the role that is worked on, curves of what is chosen.
import { Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { pathOf } from "../../api/changes";
import { useRegister } from "../../commands/useRegister";
import { CurveNames } from "../../deck/CurveNames";
import { deckCommands } from "../../deck/deckCommands";
import { deckCurves, Pyramids, rangeOfCurves, snagFlags } from "../../deck/deckModel";
import { DeckTools } from "../../deck/DeckTools";
import { headWeightTrack, useHeadDrag } from "../../deck/headWeight";
import { Transport } from "../../deck/Transport";
import { KEY_COMMANDS } from "../../keys/keyCommands";
import { handOfLayer } from "../../keys/keys";
import { clock } from "../../playback/clock";
import { useCatalogue } from "../../shared/catalogue";
import { onTheme, useLight } from "../../shared/colourMode";
import { choose, useSnags } from "../../snags/snags";
import { Deck, type DeckHandle } from "../../timekit/Deck";
import { timecodeStart, type Unit } from "../../timekit/timeAxis";
import type { Track } from "../../timekit/track";
import { blockTrack } from "../../timekit/tracks/blocks";
import { curveTrack } from "../../timekit/tracks/curves";
import { layerTrack } from "../../timekit/tracks/layers";
import { flagTrack } from "../../timekit/tracks/flags";
import { rulerTrack } from "../../timekit/tracks/ruler";
import { standTrack } from "../../timekit/tracks/stands";
import { waveTrack } from "../../timekit/tracks/wave";
import { regionsOf } from "../../workspace/rig";
import { layersOf, nameOfRole, rolesOf } from "../../workspace/state";
import { activeShot, useOpen } from "../../workspace/workspace";
import { DeckLanes } from "./DeckLanes";
import { LAYER_COMMANDS, nextPlace } from "./layerCommands";
import { choosePlacement, chooseSpan, useLayerDesk } from "./layerState";
import {
  blocksOf,
  hasBody,
  lanesOf,
  placementDragged,
  placementPath,
  rowsOf,
  soundBlocks,
  spanChanges,
  stretchOf,
} from "./shotModel";
import { useKeyTools } from "../../deck/useKeyTools";
import { useHolds } from "./useHolds";
import { useShotWave } from "./useShotWave";
import { wordBlocks, wordDragged, wordsOf } from "./wordModel";

export function ShotDeck() {
  const { shot, curves, rig, selected, comparing } = useOpen("shot", "curves", "rig", "selected", "comparing");
  const desk = useLayerDesk();
  const { list, chosen: looked, of: snagsOf } = useSnags();
  const { regionOf: standard } = useCatalogue();
  const light = useLight();
  const [kept] = useState(() => new Pyramids());
  const [unit, setUnit] = useState<Unit>("frames");
  const [deck, setDeck] = useState<DeckHandle | null>(null);
  const peaks = useShotWave(shot?.opened.shot.id, shot?.opened.shot.version);
  const body = shot?.opened.shot.body;
  const open = shot?.opened.layers.find((l) => l.id === shot.layer)?.body;
  const onRig = open?.character ? shot!.rig : null;
  const regionOf = useMemo(() => ({ ...standard, ...regionsOf(shot?.rig ?? null) }), [standard, shot?.rig]);
  const shown = useMemo(() => {
    const [table, named] = onRig ? [rig, onRig.shown] : [curves, selected];
    return table ? deckCurves(table, named, regionOf, light, kept) : [];
  }, [curves, rig, onRig, selected, regionOf, light, kept]);
  const range = useMemo(() => rangeOfCurves(shown), [shown]);
  const start = useMemo(() => (body?.timecode ? timecodeStart(body.timecode, body.rate) : null), [body]);
  const keyTools = useKeyTools(shown, open && !open.locked ? handOfLayer(open) : null, activeShot);
  const own = shot ? layersOf(shot, shot.role) : [];
  const layers = desk.folded.layers ? own.filter((l) => l.id === shot!.layer) : own;
  const openRow = layers.findIndex((l) => l.id === shot?.layer);
  const reveals =
    openRow < 0 ? null : { track: "layers", from: openRow / layers.length, to: (openRow + 1) / layers.length };

  const found = list && snagsOf === activeShot()?.snagsOf ? list.snags : [];
  const tracks: Track[] = [rulerTrack];
  if (found.length) {
    const look = (key: string) => choose(activeShot(), found.find((s) => s.key === key) ?? null);
    tracks.push(flagTrack([], snagFlags(found, looked, curves?.frames ?? 1, light), look));
  }
  tracks.push(waveTrack({ peaks, offset: () => 0, none: "no sound yet" }));
  const said = shot?.role && !desk.folded.words ? wordsOf(shot, shot.role) : [];
  if (said.length)
    tracks.push(
      blockTrack({
        id: "words",
        caption: "",
        active: true,
        lanes: 1,
        blocks: wordBlocks(said, desk.word),
        drag: () => useLayerDesk.getState().wordDrag,
        onPress: (key) => useLayerDesk.setState(key === null ? { word: null } : { word: key, panel: "words" }),
        onDrag: (key, hold, by) => useLayerDesk.setState({ wordDrag: { key, hold, by } }),
        onDrop: (key, hold, by) => {
          const word = said.find((w) => w.key === key)!;
          const label = hold === "move" ? "move a word" : "edge of a word";
          const done = by ? activeShot()?.edit(word.document, label, wordDragged(word, hold, by)) : undefined;
          void Promise.resolve(done).finally(() => useLayerDesk.setState({ wordDrag: null }));
        },
      }),
    );
  // The shot's own sounds are a lane without a role.
  const all = shot ? [...(Object.keys(body!.sounds).length ? [""] : []), ...rolesOf(shot)] : [];
  const lanes = desk.folded.clips ? all.filter((role) => role === shot!.role) : all;
  for (const role of lanes) {
    const chosen = desk.placement?.role === role ? desk.placement.key : null;
    const blocks = role ? blocksOf(shot!, role, chosen) : soundBlocks(shot!, chosen);
    tracks.push(
      blockTrack({
        id: `clips ${role}`,
        caption: role ? nameOfRole(shot!, role) : "Sounds",
        active: role === shot!.role,
        lanes: lanesOf(blocks),
        blocks,
        drag: () => (useLayerDesk.getState().dragging?.role === role ? useLayerDesk.getState().dragging : null),
        onPress: (key) => {
          if (role) activeShot()?.choose(role);
          choosePlacement(key === null ? null : { role, key });
          if (key !== null) useLayerDesk.setState({ panel: "clips" });
        },
        onDrag: (key, hold, by) => useLayerDesk.setState({ dragging: { role, key, hold, by } }),
        onDrop: (key, hold, by) => {
          const what = role ? "clip" : "sound";
          const placement = role ? body!.roles[role]!.placements[key]! : stretchOf(body!.sounds[key]!);
          const clip = role ? shot!.opened.clips.find((c) => c.id === body!.roles[role]!.placements[key]!.clip) : null;
          const base = placementPath(role, key);
          const changes = placementDragged(base, placement, hold, by, body!.rate, clip?.seconds ?? 0);
          const label = hold === "move" ? `move a ${what}` : `trim a ${what}`;
          const done = by ? activeShot()?.edit(shot!.opened.shot.id, label, changes) : undefined;
          void Promise.resolve(done).finally(() => useLayerDesk.setState({ dragging: null }));
        },
      }),
    );
  }
  const holds = useHolds(shot);
  const headDrag = useHeadDrag((s) => s.key);
  const playing = shot ? body!.roles[shot.role] : undefined;
  if (playing && !desk.folded.clips && hasBody(playing))
    tracks.push(
      headWeightTrack({
        weight: playing.headWeight,
        path: `${pathOf("roles", shot!.role)}/headWeight`,
        drag: headDrag,
        onTry: (changes) => void activeShot()?.preview({ shot: changes }),
        onKeep: (label, changes) => activeShot()?.edit(shot!.opened.shot.id, label, changes),
      }),
    );
  if (holds && !desk.folded.clips) tracks.push(standTrack(holds));
  if (layers.length)
    tracks.push(
      layerTrack({
        rows: rowsOf(layers, shot!.layer, desk.span?.key ?? null, regionOf, light),
        drag: () => useLayerDesk.getState().spanDrag,
        onOpen: (layer) => {
          activeShot()?.openLayer(layer);
          chooseSpan(null);
        },
        onPress: (layer, key) => {
          activeShot()?.openLayer(layer);
          chooseSpan({ layer, key });
          useLayerDesk.setState({ panel: "layers" });
        },
        onDrag: (drag) => useLayerDesk.setState({ spanDrag: drag }),
        onDrop: (drag) => {
          const span = layers.find((l) => l.id === drag.layer)!.body.spans[drag.key]!;
          const changes = spanChanges(span, drag);
          const done = changes.length ? activeShot()?.edit(drag.layer, "drag a span", changes) : undefined;
          void Promise.resolve(done).finally(() => useLayerDesk.setState({ spanDrag: null }));
        },
      }),
    );
  tracks.push(curveTrack({ curves: shown, range, comparing, rawName: onRig ? "cast" : "capture", ...keyTools }));

  const commands = useMemo(() => deckCommands(() => deck, nextPlace), [deck]);
  useRegister(commands);
  useRegister(LAYER_COMMANDS);
  useRegister(KEY_COMMANDS); // after those of the desk: with keys chosen, Delete is theirs
  const frames = curves?.frames ?? clock.frames;
  return (
    <Flex direction="column" h="100%" bg="bg.deck" data-testid="shot-deck">
      <Transport unit={unit} onUnit={setUnit} start={start} frames={frames} onFit={() => deck?.fit()}>
        <DeckTools />
      </Transport>
      <CurveNames curves={shown}>
        <DeckLanes />
      </CurveNames>
      <Flex position="relative" flex="1" minH="0">
        <Deck
          tracks={tracks}
          timeline={clock}
          unit={unit}
          start={start}
          shows={`${shot?.opened.shot.id} ${frames}`}
          onTheme={onTheme}
          handle={setDeck}
          reveals={reveals}
          label="Deck of the shot"
        />
      </Flex>
    </Flex>
  );
}
