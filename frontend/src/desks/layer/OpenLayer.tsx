// The open layer: what it says, where it reaches, its chosen span, and changing the face in it.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { Trash2 } from "lucide-react";
import { pathOf } from "../../api/changes";
import type { LayerDoc } from "../../api/client";
import { AmountField, Plain, Section, TextField } from "../../drawer/parts";
import { isTouchup, rigWords } from "../../workspace/rig";
import { activeShot, useSession } from "../../workspace/workspace";
import { ChangeFace } from "./ChangeFace";
import { removeChosen, repeatSpan } from "./layerCommands";
import { chooseSpan, editLayer, put, useLayerDesk } from "./layerState";
import { spanAsItWas } from "./layerVersions";
import { LayerVersions } from "./LayerVersions";
import { RegionLetters } from "./RegionLetters";
import { RigChannels } from "./RigChannels";
import { lettersOf } from "./shotModel";
import { WeightField } from "../../drawer/WeightField";

export function OpenLayer({ layer }: { layer: LayerDoc }) {
  const { body } = layer;
  const span = useLayerDesk((s) => s.span);
  const rigged = useSession((s) => !!s.shot?.rig);
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
      {!isTouchup(layer) && (
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
      )}
      <WeightField
        label="Weight"
        path="weight"
        weight={body.weight}
        onTry={(changes) => void activeShot()?.preview({ layers: { [layer.id]: changes } })}
        onKeep={(changes) => editLayer(layer, `weight of ${body.name}`, changes)}
      />
      {chosen && span && <SpanFields layer={layer} spanKey={span.key} />}
      {isTouchup(layer) && <RigChannels layer={layer} />}
      {(!isTouchup(layer) || rigged) && <ChangeFace layer={layer} />}
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
      {Object.keys(span.curves).length > 0 && (
        <Text fontSize="sm" color="dim" truncate title={Object.keys(span.curves).map(rigWords).join(", ")}>
          Curves of its own: {Object.keys(span.curves).map(rigWords).join(", ")}
        </Text>
      )}
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
