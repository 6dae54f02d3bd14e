// A weight over time: one value everywhere, or keys of its own at the playhead.
import { Box, Flex, IconButton } from "@chakra-ui/react";
import { Diamond } from "lucide-react";
import { freshId } from "../api/changes";
import type { Change } from "../api/client";
import { AmountField } from "./parts";
import { clock } from "../playback/clock";
import { useRestingFrame } from "../playback/useClock";
import { keySet, weightAt, weightSet, type Weight } from "./weights";

type Props = {
  label: string;
  mark?: string;
  /** Of the document that holds it. */
  path: string;
  weight: Weight | undefined;
  /** The most that it may be. */
  high?: number;
  onTry: (changes: Change[]) => void;
  onKeep: (changes: Change[]) => void;
};
const FULL: Weight = { value: 1, keys: {} };

export function WeightField({ label, mark, path, weight, high = 1.5, onTry, onKeep }: Props) {
  const frame = useRestingFrame();
  const held = weight ?? FULL;
  const keyed = Object.keys(held.keys).length > 0;
  const here = Object.keys(held.keys).find((id) => Math.abs(held.keys[id]![0] - frame) < 0.5);
  const set = (value: number): Change[] =>
    weight ? weightSet(path, held, clock.frame, value) : [{ path, value: { value, keys: {} } }];
  const toggle = () => {
    const value = Math.round(weightAt(held, frame) * 1000) / 1000;
    if (!weight) onKeep([{ path, value: { value: 1, keys: { [freshId("k")]: [frame, value, 0, 0, "linear"] } } }]);
    else if (here) onKeep([{ path: `${path}/keys/${here}`, remove: true }]);
    else onKeep([keySet(`${path}/keys`, held.keys, frame, value)]);
  };
  const words = here ? `Take the key of ${label} away here` : `Key ${label} here`;
  return (
    <Flex align="center">
      <IconButton
        aria-label={words}
        title={words}
        size="2xs"
        variant="ghost"
        color={here ? "accent" : keyed ? "ink" : "dim"}
        onClick={toggle}
      >
        <Diamond size={11} fill={here ? "currentColor" : "none"} />
      </IconButton>
      <Box flex="1" minW="0">
        <AmountField
          label={label}
          mark={mark}
          value={Math.round(weightAt(held, frame) * 1000) / 1000}
          rest={1}
          low={0}
          high={high}
          step={0.01}
          onDrag={(v) => onTry(set(v))}
          onCommit={(v) => onKeep(set(v))}
        />
      </Box>
    </Flex>
  );
}
