// Draws the form of any step from its parameters' description.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import type { ParameterInfo } from "../api/client";
import { isLight } from "../shared/colourMode";
import { colourOf } from "../shared/regions";
import { clock } from "../playback/clock";
import { useRegions } from "../workspace/regions";
import { LooksField } from "./LooksField";
import { AmountField, Plain, TextField } from "./parts";

type Values = Record<string, unknown>;
type Props = {
  parameters: ParameterInfo[];
  values: Values;
  selected: string[];
  /** What there is to look at, for looks. */
  aims?: { key: string; name: string }[];
  onDrag: (values: Values) => void;
  onCommit: (name: string, values: Values) => void;
};

export function ParameterForm({ parameters, values, selected, aims = [], onDrag, onCommit }: Props) {
  return (
    <Box>
      {parameters.map((p) => (
        <Box key={p.name} mb="2">
          <Field
            parameter={p}
            value={values[p.name]}
            selected={selected}
            aims={aims}
            onDrag={(v) => onDrag({ ...values, [p.name]: v })}
            onCommit={(v) => onCommit(p.label, { ...values, [p.name]: v })}
          />
        </Box>
      ))}
    </Box>
  );
}

type FieldProps = {
  parameter: ParameterInfo;
  value: unknown;
  selected: string[];
  aims: { key: string; name: string }[];
  onDrag: (v: unknown) => void;
  onCommit: (v: unknown) => void;
};

function Field({ parameter: p, value, selected, aims, onDrag, onCommit }: FieldProps) {
  const regions = useRegions();
  const amount = { low: p.low, high: p.high, step: p.step, unit: p.unit };
  if (p.kind === "choice") {
    return (
      <Flex align="center" gap="2" title={p.help}>
        <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
          {p.label}
        </Text>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field
            aria-label={p.label}
            value={String(value ?? p.default)}
            onChange={(e) => onCommit(e.target.value)}
          >
            {p.options.map((o) => (
              <option key={o} value={o}>
                {o}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Text w="34px" fontSize="xs" color="dim">
          {p.unit}
        </Text>
      </Flex>
    );
  }
  if (p.kind === "number") {
    return (
      <AmountField
        {...amount}
        label={p.label}
        hint={p.help}
        rest={Number(p.default)}
        value={Number(value ?? p.default)}
        onDrag={onDrag}
        onCommit={onCommit}
      />
    );
  }
  if (p.kind === "frames")
    return <FramesField label={p.label} hint={p.help} frames={(value ?? []) as number[]} onCommit={onCommit} />;
  if (p.kind === "looks")
    return (
      <LooksField
        label={p.label}
        hint={p.help}
        table={(value ?? {}) as Record<string, [number, string]>}
        aims={aims}
        onCommit={onCommit}
      />
    );
  const table = (value ?? {}) as Record<string, number>;
  const rest = Number(p.default);
  const names =
    p.kind === "per_region"
      ? regions.map((r) => r.name as string)
      : [...new Set([...Object.keys(table), ...selected.slice(0, 6)])];
  const set = (name: string, v: number) =>
    v === rest && p.kind === "per_channel"
      ? Object.fromEntries(Object.entries(table).filter(([k]) => k !== name))
      : { ...table, [name]: v };
  return (
    <Box>
      <Text fontSize="sm" color="dim" mt="1" mb="0.5" title={p.help}>
        {p.label}
        {p.kind === "per_channel" && names.length === 0 ? ": choose channels in the region chart" : ""}
      </Text>
      {names.map((name) => (
        <AmountField
          key={name}
          {...amount}
          label={name}
          rest={rest}
          mark={p.kind === "per_region" ? colourOf(name, isLight()) : undefined}
          value={table[name] ?? rest}
          onDrag={(v) => onDrag(set(name, v))}
          onCommit={(v) => onCommit(set(name, v))}
        />
      ))}
    </Box>
  );
}

/** Frames by number: typed, or the playhead's. */
function FramesField({
  label,
  hint,
  frames,
  onCommit,
}: {
  label: string;
  hint: string;
  frames: number[];
  onCommit: (frames: number[]) => void;
}) {
  const keep = (text: string) => {
    const typed = text
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    if (typed.every((f) => Number.isInteger(f) && f >= 0)) onCommit([...new Set(typed)].sort((a, b) => a - b));
  };
  return (
    <Flex gap="1" align="center" title={hint}>
      <Box flex="1" minW="0">
        <TextField label={label} value={frames.join(", ")} placeholder="frames, such as 120, 340" onCommit={keep} />
      </Box>
      <Plain onClick={() => onCommit([...new Set([...frames, clock.frame])].sort((a, b) => a - b))}>+ here</Plain>
    </Flex>
  );
}
