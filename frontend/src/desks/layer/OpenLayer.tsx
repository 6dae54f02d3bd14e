// The open layer: what it says, where it reaches, its chosen span, and changing the face in it.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { Trash2 } from "lucide-react";
import { pathOf } from "../../api/changes";
import type { LayerDoc } from "../../api/client";
import { AmountField, Plain, Section, TextField, Toggle } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useRange, useRestingFrame } from "../../playback/useClock";
import { useCatalogue } from "../../shared/catalogue";
import { isLight } from "../../shared/colourMode";
import { colourOf } from "../../shared/regions";
import { useNames } from "../../shared/naming";
import { useShallow } from "zustand/react/shallow";
import { activeShot, select, useOpen, useSession } from "../../workspace/workspace";
import { removeChosen, repeatSpan } from "./layerCommands";
import { useGrabbing } from "./grab";
import {
  BRUSH,
  setBrush,
  spanOf,
  chooseSpan,
  editLayer,
  keepFace,
  put,
  saidOf,
  tryFace,
  useLayerDesk,
} from "./layerState";
import { spanAsItWas } from "./layerVersions";
import { LayerVersions } from "./LayerVersions";
import { RegionLetters } from "./RegionLetters";
import { lettersOf } from "./shotModel";
import { WeightField } from "./WeightField";

const MANY = 14; // sliders at once
const LIMITS = { add: [-1, 1], replace: [0, 1], scale: [0, 2] } as const;

export function OpenLayer({ layer }: { layer: LayerDoc }) {
  const { body } = layer;
  const span = useLayerDesk((s) => s.span);
  const chosen = span?.layer === layer.id ? body.spans[span.key] : undefined;
  const reach = (region: string) => {
    const path = pathOf("regions", region);
    editLayer(layer, `reach of ${body.name}`, body.regions[region] ? [{ path, remove: true }] : put(path, true));
  };
  const remove = (
    <IconButton
      aria-label="Put this layer away"
      title="Put this layer away"
      size="2xs"
      variant="ghost"
      onClick={() => editLayer(layer, `put ${body.name} away`, put("archived", true))}
    >
      <Trash2 size={13} />
    </IconButton>
  );
  return (
    <Section title={body.name} aside={remove}>
      <TextField
        label="Name"
        value={body.name}
        onCommit={(name) => editLayer(layer, "name a layer", put("name", name))}
      />
      <TextField
        label="Folder"
        value={body.folder}
        placeholder="none"
        onCommit={(folder) => editLayer(layer, "folder of a layer", put("folder", folder.trim()))}
      />
      <Flex align="center" gap="2" py="0.5">
        <Text w="86px" fontSize="sm" color="dim">
          What it says
        </Text>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field
            aria-label="What it says"
            value={body.does}
            onChange={(e) => editLayer(layer, `a layer that ${e.target.value}s`, put("does", e.target.value))}
          >
            <option value="add">is added to what lies beneath</option>
            <option value="replace">takes the place of it</option>
            <option value="scale">is a factor of it</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      <Flex align="center" gap="2" py="0.5">
        <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
          Reach
        </Text>
        <RegionLetters label="Reach" on={(r) => !!body.regions[r]} onToggle={reach} />
        {!lettersOf(body.regions) && (
          <Text fontSize="xs" color="dim">
            all
          </Text>
        )}
      </Flex>
      <WeightField
        label="Weight"
        path="weight"
        weight={body.weight}
        onTry={(changes) => void activeShot()?.preview({ layers: { [layer.id]: changes } })}
        onKeep={(changes) => editLayer(layer, `weight of ${body.name}`, changes)}
      />
      {chosen && span && <SpanFields layer={layer} spanKey={span.key} />}
      <Face layer={layer} />
      <LayerVersions layer={layer} />
    </Section>
  );
}

function SpanFields({ layer, spanKey }: { layer: LayerDoc; spanKey: string }) {
  const span = layer.body.spans[spanKey]!;
  const path = (field: string) => pathOf("spans", spanKey, field);
  const was = spanAsItWas(layer.body, spanKey);
  const field = (label: string, name: "strength" | "leadIn" | "leadOut", high: number, step: number, unit = "") => (
    <AmountField
      label={label}
      unit={unit}
      value={span[name]}
      rest={name === "strength" ? 1 : 6}
      low={0}
      high={high}
      step={step}
      onDrag={(v) => void activeShot()?.preview({ layers: { [layer.id]: put(path(name), v) } })}
      onCommit={(v) => editLayer(layer, `${label.toLowerCase()} of a span`, put(path(name), v))}
    />
  );
  return (
    <Box mt="2" pt="2" borderTopWidth="1px" borderColor="line" data-testid="span-fields">
      <Flex justify="space-between" align="center">
        <Text fontWeight="600" fontSize="sm">
          Span {Math.round(span.first)} to {Math.round(span.last)}
        </Text>
        <Flex gap="1">
          <Plain size="2xs" title="The same once more, beginning at the playhead (R)" onClick={repeatSpan}>
            Again here
          </Plain>
          {was && (
            <Plain
              size="2xs"
              title="As it is in the newest version that has it otherwise"
              onClick={() => editLayer(layer, "a span as it was", was)}
            >
              As it was
            </Plain>
          )}
          <Plain size="2xs" onClick={removeChosen}>
            Remove
          </Plain>
          <Plain size="2xs" onClick={() => chooseSpan(null)}>
            Leave it
          </Plain>
        </Flex>
      </Flex>
      {field("Strength", "strength", 1.5, 0.01)}
      {field("Lead-in", "leadIn", 120, 1, "frames")}
      {field("Lead-out", "leadOut", 120, 1, "frames")}
      <Flex align="center" gap="2" py="0.5">
        <Text w="86px" fontSize="sm" color="dim">
          Leads go
        </Text>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field
            aria-label="Leads go"
            value={span.ease}
            onChange={(e) => editLayer(layer, "leads of a span", put(path("ease"), e.target.value))}
          >
            <option value="smooth">smoothly</option>
            <option value="straight">straight</option>
            <option value="early">mostly at first</option>
            <option value="late">mostly at last</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
    </Box>
  );
}

/** Sliders of the chosen channels: what the open layer says of them where changes go now. */
function Face({ layer }: { layer: LayerDoc }) {
  const { selected } = useOpen("selected");
  const [frame, range] = [useRestingFrame(), useRange()];
  const { regionOf } = useCatalogue();
  const named = useNames();
  const brush = useLayerDesk((s) => s.brush);
  const grabbed = useGrabbing((s) => s.channels);
  useLayerDesk((s) => s.span);
  const chosen = spanOf(layer, frame) !== null;
  const shown = useSession(useShallow((s) => s.curves?.channels ?? []));
  const shownHere = [...grabbed, ...selected.filter((c) => !grabbed.includes(c))];
  const reached = shownHere.filter((c) => !lettersOf(layer.body.regions) || layer.body.regions[regionOf[c] ?? ""]);
  const where = chosen
    ? "in the chosen span"
    : range
      ? `a new span, ${range.from} to ${range.to}`
      : brush
        ? `a brush about frame ${frame}`
        : `keys at frame ${frame}`;
  const [low, high] = LIMITS[layer.body.does];
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
      {!reached.length && (
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
        const angle = /^(head|gaze)/.test(channel);
        const scale = angle && layer.body.does !== "scale" ? 45 : 1;
        return (
          <AmountField
            key={channel}
            wide
            label={named(channel)}
            hint={channel}
            mark={colourOf(regionOf[channel] ?? "lips", isLight())}
            value={saidOf(layer, channel, frame)}
            rest={layer.body.does === "scale" ? 1 : 0}
            low={(angle ? -1 : low) * scale}
            high={high * scale}
            step={angle ? 0.5 : 0.01}
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
