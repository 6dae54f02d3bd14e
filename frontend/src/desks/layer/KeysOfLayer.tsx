// Keys of the open layer: the key kit of the deck, in the shot's own words.
import { Box, Text } from "@chakra-ui/react";
import type { LayerDoc } from "../../api/client";
import { Plain, Section } from "../../drawer/parts";
import { ChosenKeys } from "../../keys/ChosenKeys";
import { ofShown, onShown } from "../../keys/edit";
import { HeldChannels } from "../../keys/HeldChannels";
import { handOfLayer } from "../../keys/keys";
import { RestoreRange } from "../../keys/RestoreRange";
import { KeySettings } from "../../keys/KeySettings";
import { notify } from "../../shared/notices";
import { isTouchup } from "../../workspace/rig";
import { activeShot as open, useOpen } from "../../workspace/workspace";

const MEANS = {
  add: "What you draw or brush is the face as it shall be; the layer's keys say what is added for it.",
  replace: "Keys of this layer take the place of what lies beneath, on the channels that hold some.",
  scale: "What you draw or brush is the face as it shall be; the layer's keys say by which factor.",
} as const;

export function KeysOfLayer() {
  const { shot } = useOpen("shot");
  const layer = shot?.opened.layers.find((l) => l.id === shot.layer);
  if (!layer)
    return (
      <Text p="3" color="dim">
        No layer is open. Add one at Layers: keys lie in a layer, the capture beneath stays as it is.
      </Text>
    );
  const hand = handOfLayer(layer.body);
  const held = Object.keys(hand).length;
  return (
    <Box data-testid="layer-keys">
      <Section
        title={held ? `${held} ${held === 1 ? "channel" : "channels"} keyed in ${layer.body.name}` : "No keys yet"}
        aside={<Begin layer={layer} />}
      >
        <Text fontSize="sm" color="dim" mb={held ? "1.5" : "0"}>
          {layer.body.locked ? "This layer is locked: unlock it at Layers to change its keys." : MEANS[layer.body.does]}
        </Text>
        <HeldChannels hand={hand} />
      </Section>
      <ChosenKeys hand={hand} />
      <RestoreRange
        beneath={{ words: "As beneath", help: "The keys of this layer do nothing there", label: "a range as beneath" }}
        raw={{
          words: "As captured",
          help: "The face goes back to what the clips give there",
          label: "a range as captured",
        }}
      />
      <KeySettings />
    </Box>
  );
}

function Begin({ layer }: { layer: LayerDoc }) {
  const whole = layer.body.does === "replace";
  const begin = () => {
    const where = isTouchup(layer)
      ? "Choose targets or joints at Layers first"
      : "Choose channels in the region chart first";
    if (!ofShown(open(), "correct")) notify({ kind: "info", message: where });
    else onShown(open(), whole ? "reduce to keys" : "begin keys", whole ? "reduce" : "correct");
  };
  return (
    <Plain
      title={whole ? "The shown channels as they are now become keys of this layer" : "Keys that change nothing yet"}
      onClick={begin}
    >
      {whole ? "Reduce to keys" : "Begin keys"}
    </Plain>
  );
}
