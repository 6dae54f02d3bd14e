// Fingers from a take of their own: which hands count, and when they were recorded; wrists stay the body's.
import { Text } from "@chakra-ui/react";
import { ChoiceField } from "../../drawer/ChoiceField";
import { AmountField, Fact, Plain, Section } from "../../drawer/parts";
import { edit, preview, useOpen } from "../../workspace/workspace";
import { BringButton, Performers, useBringing } from "./BringBody";

const SIDES: Record<string, string> = {
  both: "both hands",
  left: "the left hand",
  right: "the right hand",
  none: "none",
};

export function HandsPanel() {
  const { opened } = useOpen("opened");
  const bringing = useBringing("hands");
  const hands = opened!.sources.hands;
  const join = opened!.join.body;
  return (
    <Section
      title="Hands"
      aside={<BringButton word={hands ? "Another" : "Bring in hands"} test="hands-picker" bringing={bringing} />}
    >
      {hands ? (
        <>
          <Fact name="Take">{hands.name}</Fact>
          <Fact name="Fingers">{String(hands.info.fingers)} joints</Fact>
          <ChoiceField
            word="It moves"
            label="Which hands it moves"
            value={join.hands}
            choices={SIDES}
            onChoose={(v) => void edit("join", `hands: ${SIDES[v]}`, [{ path: "hands", value: v }])}
          />
          <AmountField
            label="Hands later by"
            value={join.handsNudge}
            rest={0}
            low={-120}
            high={120}
            step={0.5}
            unit="frames"
            onDrag={(v) => void preview({ join: [{ path: "handsNudge", value: v }] })}
            onCommit={(v) => void edit("join", "nudge the hands", [{ path: "handsNudge", value: v }])}
          />
          <Plain
            size="2xs"
            onClick={() => void edit("take", "put the hands away", [{ path: "sources/hands", value: null }])}
          >
            Put them away
          </Plain>
        </>
      ) : (
        <Text fontSize="sm" color="dim">
          Fingers come with the body. A take of hands (.bvh, .glb) replaces them; the wrists stay the body's.
        </Text>
      )}
      <Performers bringing={bringing} />
    </Section>
  );
}
