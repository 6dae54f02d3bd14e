// Keys: which channels hold them, making them, and what can be done to the chosen ones.
import { Box, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { KeyReport } from "../../api/client";
import { AmountField, Fact, Plain, Primary, Section } from "../../drawer/parts";
import { ChosenKeys } from "../../keys/ChosenKeys";
import { ofShown, onShown } from "../../keys/edit";
import { HeldChannels } from "../../keys/HeldChannels";
import { handOf } from "../../keys/keys";
import { RestoreRange } from "../../keys/RestoreRange";
import { KeySettings } from "../../keys/KeySettings";
import { notify } from "../../shared/notices";
import { openSession as open, useOpen } from "../../workspace/workspace";

export function KeysPanel() {
  const { opened, selected } = useOpen("opened", "selected");
  const hand = handOf(opened!.take.body);
  const [tolerance, setTolerance] = useState(0.005);
  const [report, setReport] = useState<Record<string, KeyReport>>({});
  const held = Object.entries(hand);
  const reduce = () => {
    const edit = ofShown(open(), "reduce", { tolerance });
    if (!edit) return notify({ kind: "info", message: "Choose channels in the region chart first" });
    void open()
      ?.editKeys("reduce to keys", edit)
      .then((made) => made && setReport(made));
  };
  return (
    <Box data-testid="keys-panel">
      <Section
        title="Reduce to keys"
        aside={
          <Primary onClick={reduce}>
            Reduce {selected.length === 1 ? selected[0] : `${selected.length} channels`}
          </Primary>
        }
      >
        <AmountField
          label="Tolerance"
          low={0.001}
          high={0.05}
          step={0.001}
          rest={0.005}
          value={tolerance}
          hint="The farthest that a curve may move; thirty times as much in degrees"
          onDrag={setTolerance}
          onCommit={setTolerance}
        />
        <Text fontSize="sm" color="dim">
          From then on a channel holds keys. What lies beneath stays and can be had back.
        </Text>
        {Object.entries(report)
          .filter(([c]) => hand[c])
          .map(([c, r]) => (
            <Fact key={c} name={c}>
              {r.keys} keys
              <Text fontSize="sm" color="dim">
                worst {r.worst.toFixed(4)}, mean {r.mean.toFixed(4)}
              </Text>
            </Fact>
          ))}
      </Section>
      <Section
        title={
          held.length
            ? `${held.length} ${held.length === 1 ? "channel" : "channels"} by hand`
            : "No channel by hand yet"
        }
        aside={
          <Plain
            title="A correction on top of the chosen dense channels, to be keyed"
            onClick={() => onShown(open(), "begin a correction", "correct")}
          >
            Correct on top
          </Plain>
        }
      >
        {!held.length && (
          <Text fontSize="sm" color="dim">
            Draw on a curve or brush it with the tools in the deck: on a dense channel that becomes a correction on top.
          </Text>
        )}
        <HeldChannels hand={hand} />
      </Section>
      <ChosenKeys hand={hand} />
      <RestoreRange
        beneath={{
          words: "Restore tidied",
          help: "Takes back what was done by hand on the shown channels",
          label: "restore the tidied curve",
        }}
        raw={{
          words: "Restore raw",
          help: "The device's own curve comes back on the shown channels",
          label: "restore the raw curve",
        }}
      />
      <KeySettings />
    </Box>
  );
}
