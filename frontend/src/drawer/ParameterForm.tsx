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
  /** Names of blink profiles beside those that come with the product. */
  profiles?: string[];
  onDrag: (values: Values) => void;
  onCommit: (name: string, values: Values) => void;
};

export function ParameterForm({ parameters, values, selected, aims = [], profiles = [], onDrag, onCommit }: Props) {
  return (
    <Box>
      {parameters.map((p) => (
        <Box key={p.name} mb="2">
          <Field
            parameter={p}
            value={values[p.name]}
            selected={selected}
            aims={aims}
            profiles={profiles}
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
  profiles: string[];
  onDrag: (v: unknown) => void;
  onCommit: (v: unknown) => void;
};

function Field({ parameter: p, value, selected, aims, profiles, onDrag, onCommit }: FieldProps) {
  const regions = useRegions();
  const amount = { low: p.low, high: p.high, step: p.step, unit: p.unit };
  if (p.kind === "choice" || p.kind === "profile") {
    const chosen = String(value ?? p.default);
    const names = p.kind === "choice" ? p.options : [...new Set([...p.options, ...profiles, chosen])];
    return <Choice label={p.label} hint={p.help} unit={p.unit} value={chosen} names={names} onCommit={onCommit} />;
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

type ChoiceProps = {
  label: string;
  hint: string;
  unit: string;
  value: string;
  names: readonly string[];
  onCommit: (name: string) => void;
};

/** One of some names. */
const Choice = ({ label, hint, unit, value, names, onCommit }: ChoiceProps) => (
  <Flex align="center" gap="2" title={hint}>
    <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
      {label}
    </Text>
    <NativeSelect.Root size="xs" flex="1">
      <NativeSelect.Field aria-label={label} value={value} onChange={(e) => onCommit(e.target.value)}>
        {names.map((o) => (
          <option key={o} value={o}>
            {o}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
    <Text w="34px" fontSize="xs" color="dim">
      {unit}
    </Text>
  </Flex>
);

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
