// Which joints of the character are looked at: how they turn and how high they are in the deck, where they went in the viewer.
import { Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { FoundRows, RowSwitch } from "../../drawer/FoundRows";
import { Section } from "../../drawer/parts";
import { activeSession, useSession } from "../../workspace/workspace";
import { LOOKS, toggleWatched, useWatched } from "../../workspace/watched";

const ROWS = 80;

export function JointLooks() {
  const joints = useSession((s) => s.body?.joints) ?? [];
  const watched = useWatched((s) => s.joints);
  const [word, setWord] = useState("");
  const found = joints.filter((j) => j.toLowerCase().includes(word.trim().toLowerCase()));
  // What is looked at stands first.
  const order = [...found.filter((j) => watched[j]), ...found.filter((j) => !watched[j])];
  if (!joints.length) return null;
  return (
    <Section
      title="Look at joints"
      aside={
        <Text color="dim" fontSize="sm">
          in the deck and as trails
        </Text>
      }
    >
      <FoundRows
        find="Find a joint"
        label="Joints"
        word={word}
        onWord={setWord}
        note={order.length ? null : "No joint is called so."}
      >
        {order.slice(0, ROWS).map((joint) => (
          <Flex key={joint} align="center" gap="1" px="1.5" minH="22px" data-testid="joint-look">
            <Text flex="1" minW="0" truncate fontSize="sm" title={joint}>
              {joint}
            </Text>
            {LOOKS.map((look) => (
              <RowSwitch
                key={look}
                on={!!watched[joint]?.includes(look)}
                label={`${look} of ${joint}`}
                word={look}
                onClick={() => toggleWatched(joint, look, activeSession())}
              />
            ))}
          </Flex>
        ))}
      </FoundRows>
    </Section>
  );
}
