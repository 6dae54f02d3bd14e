// Versions of the open layer: one is kept, swapped with what counts, looked at, or gives back what is shown.
import { Box, Flex, IconButton, Input, Text } from "@chakra-ui/react";
import { Eye, Trash2 } from "lucide-react";
import { freshId, pathOf } from "../../api/changes";
import type { LayerDoc } from "../../api/client";
import { Plain } from "../../drawer/parts";
import { notify } from "../../shared/notices";
import { activeShot, useOpen } from "../../workspace/workspace";
import { editLayer, put } from "./layerState";
import { channelsAsIn, keepVersion, lookAt, swapVersion } from "./layerVersions";

export function LayerVersions({ layer }: { layer: LayerDoc }) {
  const { selected } = useOpen("selected");
  const { body } = layer;
  const kept = Object.entries(body.kept);
  const giveBack = (key: string, name: string) => {
    const changes = channelsAsIn(body, key, selected);
    if (changes.length) editLayer(layer, `channels as in ${name}`.slice(0, 120), changes);
    else notify({ kind: "info", message: `the shown channels are as in ${name}` });
  };
  return (
    <Box mt="2" pt="2" borderTopWidth="1px" borderColor="line" data-testid="layer-versions">
      <Flex justify="space-between" align="center">
        <Text fontWeight="600" fontSize="sm">
          Versions
        </Text>
        <Plain
          size="2xs"
          title="What this layer says now is kept beside it"
          onClick={() =>
            editLayer(layer, `keep a version of ${body.name}`.slice(0, 120), keepVersion(body, freshId("v")))
          }
        >
          Keep this one
        </Plain>
      </Flex>
      {kept.map(([key, version]) => (
        <Flex key={key} align="center" gap="1" py="0.5">
          <Input
            key={version.name}
            size="2xs"
            flex="1"
            minW="0"
            px="1.5"
            aria-label="Name of the version"
            defaultValue={version.name}
            maxLength={80}
            onBlur={(e) => {
              const name = e.target.value.trim();
              if (name && name !== version.name)
                editLayer(layer, "name a version", put(pathOf("kept", key, "name"), name));
            }}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          />
          <IconButton
            aria-label={`Look at ${version.name}`}
            title="Shown while it is held down"
            size="2xs"
            variant="ghost"
            onPointerDown={() => void activeShot()?.preview({ layers: { [layer.id]: lookAt(body, key) } })}
            onPointerUp={() => void activeShot()?.refresh([body.role])}
            onPointerLeave={(e) => e.buttons && void activeShot()?.refresh([body.role])}
          >
            <Eye size={13} />
          </IconButton>
          <Plain
            size="2xs"
            title="It counts, and what counts now is kept in its place"
            onClick={() => editLayer(layer, `swap with ${version.name}`.slice(0, 120), swapVersion(body, key))}
          >
            Swap
          </Plain>
          <Plain size="2xs" title="The shown channels get its keys" onClick={() => giveBack(key, version.name)}>
            Shown
          </Plain>
          <IconButton
            aria-label={`Remove ${version.name}`}
            size="2xs"
            variant="ghost"
            onClick={() => editLayer(layer, "remove a version", [{ path: pathOf("kept", key), remove: true }])}
          >
            <Trash2 size={13} />
          </IconButton>
        </Flex>
      ))}
    </Box>
  );
}
