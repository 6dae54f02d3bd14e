// A range of the shown channels as it was before the keys, or as it was captured.
import { Flex, Text } from "@chakra-ui/react";
import { Plain, Section } from "../drawer/parts";
import { clock } from "../playback/clock";
import { openSession as open } from "../workspace/workspace";
import { keep, ofShown } from "./edit";

type Way = { words: string; help: string; label: string };
/** beneath, raw: words on the buttons, what they do, and the label of the change. */
export function RestoreRange({ beneath, raw }: { beneath: Way; raw: Way }) {
  const restore = (to: "stack" | "raw", label: string) => {
    const { from, to: last } = clock.span;
    const edit = ofShown(open(), "restore", { first: from, last, to });
    if (edit) void keep(open(), label, edit, {});
  };
  return (
    <Section title="Range">
      <Flex gap="1.5" wrap="wrap">
        <Plain onClick={() => restore("stack", beneath.label)} title={beneath.help}>
          {beneath.words}
        </Plain>
        <Plain onClick={() => restore("raw", raw.label)} title={raw.help}>
          {raw.words}
        </Plain>
      </Flex>
      <Text fontSize="sm" color="dim" mt="1">
        On the shown channels, over the range in the deck, or all of it.
      </Text>
    </Section>
  );
}
