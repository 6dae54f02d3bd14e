// Changing the face in the open layer: sliders of what is chosen, and where a change goes.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import type { LayerDoc } from "../../api/client";
import { AmountField, Toggle } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useRange, useRestingFrame } from "../../playback/useClock";
import { useCatalogue } from "../../shared/catalogue";
import { isLight } from "../../shared/colourMode";
import { useNames } from "../../shared/naming";
import { colourOf, fullScale } from "../../shared/regions";
import { isTouchup, regionsOf, rigWords } from "../../workspace/rig";
import { select, useOpen, useSession } from "../../workspace/workspace";
import { useGrabbing } from "./grab";
import { BRUSH, keepFace, saidOf, setBrush, spanOf, tryFace, useLayerDesk } from "./layerState";
import { limitsOf, lettersOf } from "./shotModel";

const MANY = 14; // sliders at once

/** Sliders of the chosen channels: what the open layer says of them where changes go now. */
export function ChangeFace({ layer }: { layer: LayerDoc }) {
  const { selected, shot } = useOpen("selected", "shot");
  const rig = isTouchup(layer) ? (shot?.rig ?? null) : null;
  const [frame, range] = [useRestingFrame(), useRange()];
  const { regionOf: standard } = useCatalogue();
  const regionOf = useMemo(() => ({ ...standard, ...regionsOf(rig) }), [standard, rig]);
  const named = useNames();
  const brush = useLayerDesk((s) => s.brush);
  const grabbed = useGrabbing((s) => s.channels);
  useLayerDesk((s) => s.span);
  const chosen = spanOf(layer, frame) !== null;
  const shown = useSession(useShallow((s) => s.curves?.channels ?? []));
  const wanted = rig ? rig.shown : selected;
  const grabbedHere = grabbed.filter((c) => c in regionOf);
  const shownHere = [...grabbedHere, ...wanted.filter((c) => !grabbedHere.includes(c))];
  const reached = shownHere.filter((c) => !lettersOf(layer.body.regions) || layer.body.regions[regionOf[c] ?? ""]);
  const where = chosen
    ? "in the chosen span"
    : range
      ? `a new span, ${range.from} to ${range.to}`
      : brush
        ? `a brush about frame ${frame}`
        : `keys at frame ${frame}`;
  return (
    <Box mt="2" pt="2" borderTopWidth="1px" borderColor="line" data-testid="face-sliders">
      <Flex justify="space-between" mb="1">
        <Text fontWeight="600" fontSize="sm">
          Change the face
        </Text>
        <Text fontSize="sm" color={chosen || range ? "accent" : "dim"} data-testid="landing">
          {where}
        </Text>
      </Flex>
      {!reached.length && isTouchup(layer) && (
        <Text fontSize="sm" color="dim">
          Choose targets or joints above, or drag a place of the face.
        </Text>
      )}
      {!reached.length && !isTouchup(layer) && (
        <Text fontSize="sm" color="dim">
          {selected.length
            ? "This layer does not reach the chosen channels. "
            : "Choose channels in the region chart. "}
          {!!lettersOf(layer.body.regions) && (
            <Box
              as="button"
              color="accent"
              cursor="pointer"
              onClick={() => select(shown.filter((c) => layer.body.regions[regionOf[c] ?? ""]))}
            >
              Choose what it reaches
            </Box>
          )}
        </Text>
      )}
      {reached.slice(0, MANY).map((channel) => {
        const full = fullScale(channel);
        const [low, high] = limitsOf(layer.body.does, channel, rig);
        return (
          <AmountField
            key={channel}
            wide
            label={rig ? rigWords(channel) : named(channel)}
            hint={channel}
            mark={colourOf(regionOf[channel] ?? "lips", isLight())}
            value={saidOf(layer, channel, frame)}
            rest={layer.body.does === "scale" ? 1 : 0}
            low={low}
            high={high}
            step={full === 1 || layer.body.does === "scale" ? 0.01 : full === 10 ? 0.1 : 0.5}
            onDrag={(v) => tryFace({ [channel]: v })}
            onCommit={(v) => keepFace({ [channel]: v })}
          />
        );
      })}
      {reached.length > MANY && (
        <Text fontSize="sm" color="dim">
          and {reached.length - MANY} more: choose fewer
        </Text>
      )}
      <Brush />
      {!range && !chosen && !brush && (
        <Text fontSize="sm" color="dim" mt="1">
          Mark a range (Shift drag on the ruler) and what you change becomes a span over it.{" "}
          <Box
            as="button"
            color="accent"
            cursor="pointer"
            onClick={() => clock.setRange({ from: frame, to: Math.min(frame + 24, clock.frames - 1) })}
          >
            Mark 24 frames here
          </Box>
        </Text>
      )}
    </Box>
  );
}

/** Whether a change without a range becomes a key, or comes and goes about the playhead. */
function Brush() {
  const brush = useLayerDesk((s) => s.brush);
  return (
    <Box mt="1">
      <Toggle label="Brush over frames" on={brush > 0} onChange={setBrush} />
      {brush > 0 && (
        <AmountField
          label="To either side"
          unit="frames"
          value={brush}
          rest={BRUSH}
          low={1}
          high={120}
          step={1}
          onDrag={(v) => useLayerDesk.setState({ brush: v })}
          onCommit={(v) => useLayerDesk.setState({ brush: v })}
        />
      )}
    </Box>
  );
}
