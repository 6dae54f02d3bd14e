// Fingers from a take of their own: which hands count, and when they were recorded; wrists stay the body's.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";
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
          <Flex align="center" gap="2" my="1">
            <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
              It moves
            </Text>
            <NativeSelect.Root size="xs" flex="1">
              <NativeSelect.Field
                aria-label="Which hands it moves"
                value={join.hands}
                onChange={(e) =>
                  void edit("join", `hands: ${SIDES[e.target.value]}`, [{ path: "hands", value: e.target.value }])
                }
              >
                {Object.entries(SIDES).map(([name, words]) => (
                  <option key={name} value={name}>
                    {words}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Flex>
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
