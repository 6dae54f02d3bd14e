// One of several things, in words, with its label before it.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";

type Props = {
  word: string;
  label: string;
  value: string;
  choices: Record<string, string>;
  onChoose: (value: string) => void;
};

/** word: what stands before it; label: its name for those who hear the page. */
export function ChoiceField({ word, label, value, choices, onChoose }: Props) {
  return (
    <Flex align="center" gap="2" my="1">
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        {word}
      </Text>
      <NativeSelect.Root size="xs" flex="1">
        <NativeSelect.Field aria-label={label} value={value} onChange={(e) => onChoose(e.target.value)}>
          {Object.entries(choices).map(([name, words]) => (
            <option key={name} value={name}>
              {words}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Flex>
  );
}
