// The gains of one target, or the combination that drives it.
import { Box, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useState } from "react";
import { pathOf } from "../../api/changes";
import { useCatalogue } from "../../shared/catalogue";
import { useNames } from "../../shared/naming";
import { Plain } from "../../drawer/parts";
import { edit } from "../../workspace/workspace";
import { put, type Parts, type Sheet } from "./sheet";

export function ShapeSelect({
  label,
  value,
  onChange,
  none,
}: {
  label: string;
  value: string;
  onChange: (shape: string) => void;
  none?: string;
}) {
  const { shapes } = useCatalogue();
  const named = useNames();
  return (
    <NativeSelect.Root size="xs" flex="1" minW="0">
      <NativeSelect.Field aria-label={label} value={value} onChange={(e) => onChange(e.target.value)}>
        {none !== undefined && <option value="">{none}</option>}
        {shapes.map((s) => (
          <option key={s} value={s}>
            {named(s)}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

export function Gain({ label, value, onKeep }: { label: string; value: number; onKeep: (value: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = Number((typed ?? "").replace(",", "."));
    if (typed !== null && typed.trim() && Number.isFinite(next)) onKeep(Math.min(Math.max(next, -4), 4));
    setTyped(null);
  };
  return (
    <Input
      size="2xs"
      w="52px"
      textAlign="right"
      px="1"
      aria-label={label}
      value={typed ?? String(value)}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setTyped(null);
      }}
    />
  );
}

export function PartsEditor({
  target,
  parts,
  byHand,
  sheet,
  onSet,
}: {
  target: string;
  parts: Parts;
  byHand: boolean;
  sheet: Sheet;
  onSet: (parts: Parts | "automatic") => void;
}) {
  const entries = Object.entries(parts);
  const replaced = (from: string, to: string) =>
    onSet(
      Object.fromEntries(
        entries
          .filter(([s]) => s === from || s !== to)
          .map(([s, g]) => (s === from ? [to, g] : [s, g]))
          .filter(([s]) => s !== ""),
      ) as Parts,
    );
  const combine = () =>
    put(sheet, `combine on ${target}`, {
      combinations: {
        ...sheet.combinations,
        [target]: {
          of: [
            entries[0]?.[0] ?? "jawOpen",
            entries[1]?.[0] ?? (entries[0]?.[0] === "mouthSmileLeft" ? "jawOpen" : "mouthSmileLeft"),
          ],
          by: "product",
          gain: 1,
        },
      },
    });
  return (
    <Box>
      {entries.map(([shape, gain], i) => (
        <Flex key={shape} align="center" gap="1.5" mb="1">
          <ShapeSelect
            label={i ? `Shape ${i + 1} of ${target}` : `Shape of ${target}`}
            value={shape}
            none="take away"
            onChange={(s) => replaced(shape, s)}
          />
          <Text color="dim">×</Text>
          <Gain label={`Gain of ${shape} on ${target}`} value={gain} onKeep={(g) => onSet({ ...parts, [shape]: g })} />
        </Flex>
      ))}
      <Flex align="center" gap="1.5" mb="1">
        <ShapeSelect
          label={entries.length ? `Another shape of ${target}` : `Shape of ${target}`}
          value=""
          none={entries.length ? "and another shape…" : "choose a shape…"}
          onChange={(s) => {
            if (s) onSet({ ...parts, [s]: parts[s] ?? 1 });
          }}
        />
      </Flex>
      <Flex gap="1.5" wrap="wrap">
        {entries.length > 0 && (
          <Plain size="2xs" onClick={() => onSet({})}>
            Leave alone
          </Plain>
        )}
        {byHand && (
          <Plain size="2xs" onClick={() => onSet("automatic")}>
            By itself again
          </Plain>
        )}
        <Plain size="2xs" title="A corrective shape, driven by two channels at once" onClick={() => void combine()}>
          Combine two
        </Plain>
      </Flex>
    </Box>
  );
}

export function CombinationEditor({ target, sheet }: { target: string; sheet: Sheet }) {
  const made = sheet.combinations[target]!;
  const keep = (next: typeof made, label: string) =>
    void put(sheet, label, { combinations: { ...sheet.combinations, [target]: next } });
  const off = () =>
    void edit("cast", `no combination on ${target}`, [{ path: pathOf("combinations", target), remove: true }]);
  return (
    <Box>
      {made.of.map((shape, i) => (
        <Flex key={i} align="center" gap="1.5" mb="1">
          <Text w="30px" color="dim">
            {i ? "and" : "of"}
          </Text>
          <ShapeSelect
            label={`Combined shape ${i + 1} of ${target}`}
            value={shape}
            onChange={(s) => {
              if (!made.of.includes(s))
                keep({ ...made, of: made.of.map((o, k) => (k === i ? s : o)) }, `combine ${s} on ${target}`);
            }}
          />
        </Flex>
      ))}
      <Flex align="center" gap="1.5" mb="1">
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field
            aria-label={`Rule of ${target}`}
            value={made.by}
            onChange={(e) => keep({ ...made, by: e.target.value as "product" | "least" }, `rule of ${target}`)}
          >
            <option value="product">their product</option>
            <option value="least">the least of them</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Text color="dim">×</Text>
        <Gain
          label={`Gain of ${target}`}
          value={made.gain}
          onKeep={(gain) => keep({ ...made, gain: Math.max(gain, 0) }, `gain of ${target}`)}
        />
      </Flex>
      <Flex gap="1.5">
        {made.of.length < 4 && (
          <Plain
            size="2xs"
            onClick={() =>
              keep(
                {
                  ...made,
                  of: [
                    ...made.of,
                    ["jawOpen", "mouthSmileLeft", "mouthSmileRight", "browInnerUp"].find((s) => !made.of.includes(s))!,
                  ],
                },
                `combine more on ${target}`,
              )
            }
          >
            And another
          </Plain>
        )}
        <Plain size="2xs" onClick={off}>
          No combination
        </Plain>
      </Flex>
    </Box>
  );
}
