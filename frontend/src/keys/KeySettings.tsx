// How edits of keys are made, and what is done to keys with a button.
import { Flex } from "@chakra-ui/react";
import { AmountField, Plain, Section, Toggle } from "../drawer/parts";
import { notify } from "../shared/notices";
import { openSession as open } from "../workspace/workspace";
import { copyChosen, insertHere, onChosen, pasteHere } from "./edit";
import { useKeys } from "./keys";

export function KeySettings() {
  const keyed = useKeys();
  return (
    <Section title="Tools">
      <AmountField
        label="Brush"
        unit="frames"
        low={2}
        high={120}
        step={1}
        rest={12}
        value={keyed.size}
        hint="Frames to either side that a brush touches"
        onDrag={(size) => useKeys.setState({ size })}
        onCommit={(size) => useKeys.setState({ size })}
      />
      <AmountField
        label="Paste offset"
        low={-1}
        high={1}
        step={0.01}
        rest={0}
        value={keyed.offset}
        hint="What is added to the values of pasted keys"
        onDrag={(offset) => useKeys.setState({ offset })}
        onCommit={(offset) => useKeys.setState({ offset })}
      />
      <Toggle label="Snap keys to whole frames" on={keyed.snap} onChange={(snap) => useKeys.setState({ snap })} />
      <Toggle
        label="Fit the curve when keys are deleted"
        on={keyed.refit}
        onChange={(refit) => useKeys.setState({ refit })}
      />
      <Flex mt="2" gap="1.5" wrap="wrap">
        <Plain onClick={() => insertHere(open())} title="I">
          Insert here
        </Plain>
        <Plain
          onClick={() => {
            const n = copyChosen(open());
            notify({ kind: "info", message: `${n} keys copied` });
          }}
          title="Ctrl C"
        >
          Copy
        </Plain>
        <Plain onClick={() => pasteHere(open())} title="Ctrl V">
          Paste here
        </Plain>
        <Plain onClick={() => onChosen(open(), "mirror keys", "mirror")} title="The other side gets these keys">
          Mirror
        </Plain>
      </Flex>
    </Section>
  );
}
