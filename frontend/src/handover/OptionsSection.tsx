// What is asked for whatever the form: rate, range, head and travel, names, keys.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { ChoiceField } from "../drawer/ChoiceField";
import { AmountField, Plain, TextField, Toggle } from "../drawer/parts";
import { useRange } from "../playback/useClock";
import { changedOptions, type Options, withRange } from "./handoverModel";

const RATES = ["23.976", "24", "25", "29.97", "30", "48", "50", "59.94", "60", "120"];
const NAMES = { add: "put before names", "take off": "taken off names" };

type Props = {
  options: Options;
  pattern: string;
  words: string[];
  rate: string;
  /** Whether frames of what is open mean anything for what is handed over. */
  ranged: boolean;
  onChange: (options: Options) => void;
  onPattern: (pattern: string) => void;
};

export function OptionsSection({ options, pattern, words, rate, ranged, onChange, onPattern }: Props) {
  const [open, setOpen] = useState(false);
  const range = useRange();
  const set = (by: Partial<Options>) => onChange({ ...options, ...by });
  const asked = changedOptions(options);
  const rates = Object.fromEntries([["", `as it is${rate ? ` (${rate})` : ""}`], ...RATES.map((r) => [r, `${r} fps`])]);
  return (
    <Box>
      <ChoiceField
        word="Rate"
        label="Rate of the handover"
        value={options.rate}
        choices={rates}
        onChoose={(r) => set({ rate: r })}
      />
      {ranged && (
        <Flex align="center" gap="2" my="1">
          <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
            Frames
          </Text>
          <Text flex="1" data-testid="handover-range">
            {options.first == null ? "all" : `${options.first} to ${options.last}`}
          </Text>
          {options.first != null && (
            <Plain size="2xs" onClick={() => onChange(withRange(options, null))}>
              all
            </Plain>
          )}
          <Plain
            size="2xs"
            disabled={!range}
            title={range ? "" : "Mark a range in the ruler first"}
            onClick={() => onChange(withRange(options, range))}
          >
            marked range
          </Plain>
        </Flex>
      )}
      <Plain size="2xs" my="1" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Fewer options" : `More options${asked ? ` (${asked} set)` : ""}`}
      </Plain>
      {open && (
        <Box>
          <AmountField
            label="Handles"
            hint="Frames more before and after, as far as there are any"
            value={options.handles}
            low={0}
            high={48}
            step={1}
            unit="frames"
            rest={0}
            onDrag={() => undefined}
            onCommit={(handles) => set({ handles })}
          />
          <AmountField
            label="Tolerance"
            hint="Keys that lines between the others replace within this much are left out; 0 keeps every frame"
            value={options.tolerance}
            low={0}
            high={0.02}
            step={0.0005}
            rest={0}
            onDrag={() => undefined}
            onCommit={(tolerance) => set({ tolerance })}
          />
          <Flex direction="column" gap="1.5" my="1.5">
            <Toggle label="Head motion" on={options.head} onChange={(head) => set({ head })} />
            <Toggle label="Travel of the body" on={options.travel} onChange={(travel) => set({ travel })} />
            <Toggle label="A frame of the rest pose first" on={options.rest} onChange={(rest) => set({ rest })} />
            <Toggle label="The face at rest last" on={options.neutral} onChange={(neutral) => set({ neutral })} />
          </Flex>
          <TextField
            label="Prefix"
            value={options.prefix}
            placeholder="of joints and targets, such as odile_"
            onCommit={(prefix) => set({ prefix })}
          />
          {options.prefix && (
            <ChoiceField
              word="is"
              label="What the prefix is for"
              value={options.prefixing}
              choices={NAMES}
              onChoose={(prefixing) => set({ prefixing: prefixing as Options["prefixing"] })}
            />
          )}
          <TextField label="File names" value={pattern} onCommit={(p) => onPattern(p || "{name}")} />
          <Text fontSize="xs" color="dim">
            {words.map((w) => `{${w}}`).join(" ")}
          </Text>
        </Box>
      )}
    </Box>
  );
}
