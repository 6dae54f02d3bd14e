// Feet that stood: whether they stand on the character, on which ground, and the contact that is chosen in the deck.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { AmountField, Plain, Section, Toggle } from "../../drawer/parts";
import { useStands } from "../../feet/useStands";
import { edit, preview, useOpen } from "../../workspace/workspace";
import { goesItsWay } from "../../workspace/useJoinReport";

export function FeetPanel() {
  const { opened } = useOpen("opened");
  const feet = useStands(true);
  const join = opened!.join.body;
  const chosen = useRef<HTMLDivElement>(null);
  const key = feet?.rows.chosen;
  useEffect(() => {
    chosen.current?.scrollIntoView({ block: "nearest" });
  }, [key]);
  if (!feet) return null;
  const count = (side: string) => feet.stands.filter((s) => s.side === side).length;
  if (!feet.stands.length && !feet.byHand)
    return (
      <Section title="Feet">
        <Text fontSize="sm" color="dim">
          No foot is found to stand: this body has no two legs with feet, or it never stands within the take.
        </Text>
      </Section>
    );
  return (
    <Section
      title="Feet"
      aside={
        <Text color="dim" fontSize="sm">
          {count("Left")} left, {count("Right")} right
        </Text>
      }
    >
      <Toggle
        label="Feet that stood stand"
        hint="Heel, then the flat foot, then the toe stays where it is; hips go down where a leg is too short"
        on={join.feet}
        onChange={(on) => void edit("join", on ? "feet stand" : "feet as they come", [{ path: "feet", value: on }])}
      />
      {join.feet && (
        <AmountField
          label="Ground up by"
          value={Math.round(join.floor * 1000) / 10}
          rest={0}
          low={-20}
          high={20}
          step={0.1}
          unit="cm"
          onDrag={(v) => void preview({ join: [{ path: "floor", value: v / 100 }] })}
          onCommit={(v) => void edit("join", "height of the ground", [{ path: "floor", value: v / 100 }])}
        />
      )}
      {feet.chosen && (
        <Box ref={chosen} my="1" pl="2" borderLeftWidth="2px" borderColor="accent" data-testid="chosen-contact">
          <Text>
            {feet.chosen.side} foot, frames {Math.round(feet.chosen.first)} to {Math.round(feet.chosen.last)}
            <Text as="span" color="dim">
              {feet.chosen.key ? ", set by hand" : ", as found"}
            </Text>
          </Text>
          <Flex gap="1.5" mt="1" wrap="wrap">
            <Plain size="2xs" disabled={!feet.lock} title="What is found anew leaves it as it is" onClick={feet.lock}>
              Lock
            </Plain>
            <Plain size="2xs" disabled={!feet.remove} onClick={feet.remove}>
              Take away
            </Plain>
            <Plain size="2xs" disabled={!feet.asFound} onClick={feet.asFound}>
              As found
            </Plain>
          </Flex>
        </Box>
      )}
      <Flex align="center" justify="space-between" gap="2" mt="1">
        <Text fontSize="sm" color="dim">
          {join.feet && !goesItsWay(join)
            ? "The body does not go its whole way, so its feet slide: nothing is held."
            : "In the deck: press a bar to choose it, drag its edges, double-click to add one."}
        </Text>
        {feet.byHand > 0 && (
          <Plain size="2xs" flexShrink={0} onClick={feet.allAsFound}>
            All as found
          </Plain>
        )}
      </Flex>
    </Section>
  );
}
