// A step in a stack: its number and name, what it acts on, what is done with it as a whole; open, its help and what it is set by.
import { Box, Flex, IconButton, Text } from "@chakra-ui/react";
import { ArrowDown, ArrowUp, Trash2 } from "lucide-react";
import { Toggle } from "./parts";

type Props = {
  test: string;
  number: number;
  label: string;
  help: string;
  /** Where it acts. */
  words: string;
  on: boolean;
  open: boolean;
  onOpen: () => void;
  /** Why it stays where it is and is always on; else what can be done with it. */
  fixed?: string;
  canUp?: boolean;
  canDown?: boolean;
  onMove?: (by: -1 | 1) => void;
  onRemove?: () => void;
  onSwitch?: (on: boolean) => void;
  children: React.ReactNode;
};

export function StepCard({ test, help, children, ...head }: Props) {
  return (
    <Box
      borderBottomWidth="1px"
      borderColor="line"
      px="3"
      py="2"
      bg={head.open ? "bg.raised" : undefined}
      data-testid={test}
    >
      <Head {...head} />
      {head.open && (
        <Box mt="2">
          <Text fontSize="sm" color="dim" mb="2">
            {help}
          </Text>
          {children}
        </Box>
      )}
    </Box>
  );
}

function Head({ number, label, words, on, open, onOpen, fixed, ...does }: Omit<Props, "test" | "help" | "children">) {
  return (
    <Flex align="center" gap="1.5">
      <Box
        as="button"
        flex="1"
        minW="0"
        textAlign="left"
        cursor="pointer"
        color={on ? "ink" : "dim"}
        aria-expanded={open}
        onClick={onOpen}
      >
        <Text fontWeight="600" truncate>
          <Text as="span" color="dim" mr="2" fontWeight="400">
            {number}
          </Text>
          {label}
        </Text>
        {words && (
          <Text fontSize="xs" color="dim" truncate pl="4">
            {words}
          </Text>
        )}
      </Box>
      {fixed ? (
        <Text fontSize="sm" color="dim">
          {fixed}
        </Text>
      ) : (
        <>
          <Small label={`Move ${label} up`} off={!does.canUp} onClick={() => does.onMove?.(-1)}>
            <ArrowUp size={13} />
          </Small>
          <Small label={`Move ${label} down`} off={!does.canDown} onClick={() => does.onMove?.(1)}>
            <ArrowDown size={13} />
          </Small>
          <Small label={`Take ${label} out`} onClick={() => does.onRemove?.()}>
            <Trash2 size={13} />
          </Small>
          <Toggle label={on ? "on" : "off"} on={on} onChange={(v) => does.onSwitch?.(v)} />
        </>
      )}
    </Flex>
  );
}

type SmallProps = { label: string; off?: boolean; onClick: () => void; children: React.ReactNode };

const Small = ({ label, off = false, onClick, children }: SmallProps) => (
  <IconButton aria-label={label} size="2xs" variant="ghost" disabled={off} onClick={onClick}>
    {children}
  </IconButton>
);
