// What can be done to the chosen keys: kind and weight of tangents, values, frames, scaling.
import { Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useState } from "react";
import { AmountField, Plain, Section } from "../drawer/parts";
import { clock } from "../playback/clock";
import { openSession as open } from "../workspace/workspace";
import { keep, nudge, ofChosen, onChosen } from "./edit";
import { chosenRows, count, useKeys, type Hand } from "./keys";

const KINDS = ["smooth", "flat", "linear", "stepped", "free"];

export function ChosenKeys({ hand }: { hand: Hand }) {
  const keyed = useKeys();
  const { chosen } = keyed;
  const total = count(chosen);
  const [weight, setWeight] = useState(1 / 3);
  if (!total)
    return (
      <Section title="Chosen keys">
        <Text fontSize="sm" color="dim">
          None. Take the key tool (2) in the deck and click a key, or draw a box about some.
        </Text>
      </Section>
    );
  const rows = chosenRows(hand, chosen);
  const first = Math.min(...rows.map((r) => r[0]));
  const last = Math.max(...rows.map((r) => r[0]));
  const one = rows.length === 1 ? rows[0]! : null;
  return (
    <Section
      title={`${total} chosen keys`}
      aside={
        <Plain onClick={() => onChosen(open(), "delete keys", "delete", { refit: useKeys.getState().refit }, {})}>
          Delete
        </Plain>
      }
    >
      <Flex align="center" gap="2" mb="1">
        <Text w="86px" fontSize="sm" color="dim">
          Tangents
        </Text>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field
            aria-label="Tangents"
            value={rows.every((r) => r[4] === rows[0]?.[4]) ? (rows[0]?.[4] ?? "") : ""}
            onChange={(e) =>
              onChosen(open(), `${e.target.value} tangents`, "tangents", { kind: e.target.value }, chosen)
            }
          >
            {!rows.every((r) => r[4] === rows[0]?.[4]) && <option value="">several</option>}
            {KINDS.map((k) => (
              <option key={k} value={k}>
                {k}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      <AmountField
        label="Weight"
        low={0.05}
        high={1}
        step={0.01}
        rest={0.33}
        value={weight}
        hint="How far the tangents reach toward the neighbours"
        onDrag={setWeight}
        onCommit={(v) => {
          setWeight(v);
          onChosen(open(), "weigh tangents", "tangents", { kind: rows[0]?.[4] ?? "free", weight: v }, chosen);
        }}
      />
      <Typed
        label="Value"
        value={one ? one[1] : NaN}
        onCommit={(v) => onChosen(open(), "type a value", "value", { value: v }, chosen)}
      />
      <Typed
        label="Frame"
        value={one ? one[0] : NaN}
        disabled={!one}
        onCommit={(v) => nudge(open(), keyed.snap ? Math.round(v - one![0]) : v - one![0], 0)}
      />
      <Typed
        label="Values times"
        value={NaN}
        placeholder="a factor, about 0"
        onCommit={(v) => onChosen(open(), "scale values", "scale", { time: 1, value: v }, chosen)}
      />
      <Flex gap="1.5" align="center" mt="1.5">
        <Text w="86px" fontSize="sm" color="dim">
          Scale about
        </Text>
        <Scale about={clock.frame} label="playhead" />
        <Scale about={first} label="first" />
        <Scale about={last} label="last" />
      </Flex>
      <Text fontSize="xs" color="dim" mt="1">
        Alt and arrows nudge by a frame or 0.01, with Shift by ten.
      </Text>
    </Section>
  );
}

/** Scales time of the chosen keys about a frame by the factor that is typed. */
function Scale({ about, label }: { about: number; label: string }) {
  const [typed, setTyped] = useState("");
  const run = () => {
    const time = Number(typed.replace(",", "."));
    const edit = Number.isFinite(time) && time > 0 ? ofChosen(open(), "scale", { about, time }) : null;
    if (edit) void keep(open(), `scale keys about the ${label}`, edit, {});
    setTyped("");
  };
  return (
    <Input
      size="2xs"
      w="66px"
      px="1"
      aria-label={`Scale about ${label}`}
      placeholder={label}
      title={`Time of the chosen keys, times what you type, about the ${label}`}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === "Enter") run();
        if (e.key === "Escape") setTyped("");
      }}
    />
  );
}

function Typed({
  label,
  value,
  disabled,
  placeholder = "several",
  onCommit,
}: {
  label: string;
  value: number;
  disabled?: boolean;
  placeholder?: string;
  onCommit: (value: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const shown = Number.isNaN(value) ? "" : String(Number(value.toFixed(4)));
  const run = () => {
    const next = Number((typed ?? "").replace(",", "."));
    if (typed?.trim() && Number.isFinite(next) && next !== value) onCommit(next);
    setTyped(null);
  };
  return (
    <Flex align="center" gap="2" py="0.5">
      <Text w="86px" fontSize="sm" color="dim">
        {label}
      </Text>
      <Input
        size="2xs"
        flex="1"
        px="1"
        disabled={disabled}
        aria-label={`${label} of the chosen keys`}
        placeholder={Number.isNaN(value) ? placeholder : ""}
        value={typed ?? shown}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={run}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setTyped(null);
        }}
      />
    </Flex>
  );
}
