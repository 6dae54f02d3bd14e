// Looks of a gaze maker: from which frame on the eyes look at what.
import { Box, Flex, IconButton, Input, NativeSelect, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { freshId } from "../api/changes";
import { clock } from "../playback/clock";
import { Plain } from "./parts";

type Table = Record<string, [number, string]>;
type Props = {
  label: string;
  hint: string;
  table: Table;
  aims: { key: string; name: string }[];
  onCommit: (table: Table) => void;
};

export function LooksField({ label, hint, table, aims, onCommit }: Props) {
  const rows = Object.entries(table).sort(([, a], [, b]) => a[0] - b[0]);
  const without = (id: string): Table => Object.fromEntries(Object.entries(table).filter(([k]) => k !== id));
  const typed = (id: string, text: string) => {
    const frame = Number(text);
    if (Number.isInteger(frame) && frame >= 0) onCommit({ ...table, [id]: [frame, table[id]![1]] });
  };
  return (
    <Box title={hint} data-testid="looks">
      <Flex justify="space-between" align="center" mb="0.5">
        <Text fontSize="sm" color="dim">
          {label}
        </Text>
        <Plain
          size="2xs"
          onClick={() => onCommit({ ...table, [freshId("l")]: [clock.frame, aims[0]?.key ?? "captured"] })}
        >
          + here
        </Plain>
      </Flex>
      <Box maxH="132px" overflowY="auto">
        {rows.map(([id, [frame, aim]]) => (
          <Flex key={id} align="center" gap="1" py="1px">
            <Input
              key={frame}
              size="2xs"
              w="58px"
              aria-label="Frame of a look"
              defaultValue={frame}
              onFocus={() => clock.seekFrame(frame)}
              onBlur={(e) => e.target.value !== String(frame) && typed(id, e.target.value)}
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
            <NativeSelect.Root size="xs" flex="1">
              <NativeSelect.Field
                aria-label={`Aim at ${frame}`}
                value={aims.some((a) => a.key === aim) ? aim : ""}
                onChange={(e) => onCommit({ ...table, [id]: [frame, e.target.value] })}
              >
                {!aims.some((a) => a.key === aim) && <option value="">an aim that is gone</option>}
                {aims.map((a) => (
                  <option key={a.key} value={a.key}>
                    {a.name}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
            <IconButton
              aria-label={`Remove the look at ${frame}`}
              size="2xs"
              variant="ghost"
              onClick={() => onCommit(without(id))}
            >
              <X size={11} />
            </IconButton>
          </Flex>
        ))}
      </Box>
    </Box>
  );
}
