// Contacts of the body: whether feet that stood stand on the character and hands that touched touch, and the one that is chosen.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { rowOf, ROWS } from "../../contacts/standModel";
import { useStands } from "../../contacts/useStands";
import { AmountField, Plain, Section, Toggle } from "../../drawer/parts";
import { edit, preview, useOpen } from "../../workspace/workspace";
import { goesItsWay } from "../../workspace/useJoinReport";

type Contacts = NonNullable<ReturnType<typeof useStands>>;

export function ContactsPanel() {
  const contacts = useStands(true);
  if (!contacts) return null;
  return (
    <>
      <Feet contacts={contacts} />
      <Hands contacts={contacts} />
      <Chosen contacts={contacts} />
    </>
  );
}

const counted = (contacts: Contacts, side: string) => contacts.stands.filter((s) => s.side === side).length;

function Aside({ children }: { children: string }) {
  return (
    <Text color="dim" fontSize="sm">
      {children}
    </Text>
  );
}

function Feet({ contacts }: { contacts: Contacts }) {
  const join = useOpen("opened").opened!.join.body;
  const [left, right] = ["Left", "Right"].map((side) => counted(contacts, side)) as [number, number];
  return (
    <Section title="Feet" aside={<Aside>{`${left} left, ${right} right`}</Aside>}>
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
      {!left && !right && <Aside>No foot is found to stand: it never does, or there are no two legs with feet.</Aside>}
      {join.feet && !goesItsWay(join) && (
        <Aside>The body does not go its whole way, so its feet slide: nothing is held.</Aside>
      )}
    </Section>
  );
}

function Hands({ contacts }: { contacts: Contacts }) {
  const join = useOpen("opened").opened!.join.body;
  const head = counted(contacts, "LeftHand") + counted(contacts, "RightHand");
  const each = counted(contacts, "Hands");
  return (
    <Section title="Hands" aside={<Aside>{`${head} on the head, ${each} on each other`}</Aside>}>
      <Toggle
        label="Hands that touched touch"
        hint="On the character's own head, however the face take turns it, and on each other; arms bend so that they reach"
        on={join.touch}
        onChange={(on) => void edit("join", on ? "hands touch" : "hands as they come", [{ path: "touch", value: on }])}
      />
      {!head && !each && <Aside>No hand is found to touch. What it does touch is set in the deck.</Aside>}
    </Section>
  );
}

/** The contact that is chosen, and what can be done with it. */
function Chosen({ contacts }: { contacts: Contacts }) {
  const chosen = useRef<HTMLDivElement>(null);
  const key = contacts.rows.chosen;
  useEffect(() => {
    chosen.current?.scrollIntoView({ block: "nearest" });
  }, [key]);
  const stand = contacts.chosen;
  const row = stand && ROWS[rowOf(stand.side)]!;
  return (
    <Box px="3" py="2" ref={chosen}>
      {stand && row && (
        <Box my="1" pl="2" borderLeftWidth="2px" borderColor="accent" data-testid="chosen-contact">
          <Text>
            {row.word.charAt(0).toUpperCase() + row.word.slice(1)}, frames {Math.round(stand.first)} to{" "}
            {Math.round(stand.last)}
            <Text as="span" color="dim">
              {stand.key ? ", set by hand" : ", as found"}
            </Text>
          </Text>
          <Flex gap="1.5" mt="1" wrap="wrap">
            <Plain
              size="2xs"
              disabled={!contacts.lock}
              title="What is found anew leaves it as it is"
              onClick={contacts.lock}
            >
              Lock
            </Plain>
            <Plain size="2xs" disabled={!contacts.remove} onClick={contacts.remove}>
              Take away
            </Plain>
            <Plain size="2xs" disabled={!contacts.asFound} onClick={contacts.asFound}>
              As found
            </Plain>
          </Flex>
        </Box>
      )}
      <Flex align="center" justify="space-between" gap="2" mt="1">
        <Aside>In the deck: press a bar to choose it, drag its edges, double-click to add one.</Aside>
        {contacts.byHand > 0 && (
          <Plain size="2xs" flexShrink={0} onClick={contacts.allAsFound}>
            All as found
          </Plain>
        )}
      </Flex>
    </Box>
  );
}
