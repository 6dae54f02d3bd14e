// Takes with a box each, of which some are chosen.
import { Box, Checkbox, Text } from "@chakra-ui/react";

type Pickable = { id: string; slate: string };
type Props<T extends Pickable> = {
  takes: T[];
  chosen: string[];
  onChoose: (chosen: string[]) => void;
  /** What is said of a take behind its slate. */
  about: (take: T) => string;
  height: string;
};

export function TakePicker<T extends Pickable>({ takes, chosen, onChoose, about, height }: Props<T>) {
  return (
    <Box maxH={height} overflowY="auto">
      {takes.map((t) => (
        <Checkbox.Root
          key={t.id}
          size="sm"
          display="flex"
          py="0.5"
          checked={chosen.includes(t.id)}
          onCheckedChange={(e) => onChoose(e.checked ? [...chosen, t.id] : chosen.filter((c) => c !== t.id))}
        >
          <Checkbox.HiddenInput />
          <Checkbox.Control />
          <Checkbox.Label fontWeight="400">
            {t.slate}{" "}
            <Text as="span" color="dim">
              {about(t)}
            </Text>
          </Checkbox.Label>
        </Checkbox.Root>
      ))}
    </Box>
  );
}
