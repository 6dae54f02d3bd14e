// A list that is searched by a word, with switches in each row: joints, targets.
import { Box, Input, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";

type Rows = {
  find: string;
  label: string;
  word: string;
  onWord: (word: string) => void;
  note: string | null;
  children: ReactNode;
};

/** find: what the field says; label: of the list; note: said under the rows, null for nothing. */
export function FoundRows({ find, label, word, onWord, note, children }: Rows) {
  return (
    <>
      <Input
        size="xs"
        mb="1"
        placeholder={find}
        aria-label={find}
        value={word}
        onChange={(e) => onWord(e.target.value)}
      />
      <Box
        maxH="170px"
        overflowY="auto"
        borderWidth="1px"
        borderColor="line"
        borderRadius="sm"
        role="group"
        aria-label={label}
      >
        {children}
        {note && (
          <Text p="1.5" fontSize="sm" color="dim">
            {note}
          </Text>
        )}
      </Box>
    </>
  );
}

/** A small switch in a row. */
export function RowSwitch({
  on,
  label,
  word,
  onClick,
}: {
  on: boolean;
  label: string;
  word: string;
  onClick: () => void;
}) {
  return (
    <Box
      as="button"
      px="1.5"
      fontSize="xs"
      borderRadius="2px"
      cursor="pointer"
      aria-pressed={on}
      aria-label={label}
      color={on ? "ink" : "dim"}
      bg={on ? "bg.pressed" : undefined}
      onClick={onClick}
    >
      {word}
    </Box>
  );
}
