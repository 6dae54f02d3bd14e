// Keys: which channels hold them, making them, and what can be done to the chosen ones.
import { Box, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useState } from "react";
import { api, type KeyReport } from "../../api/client";
import { notify } from "../../shared/notices";
import { AmountField, Fact, Plain, Primary, Section, Toggle } from "../../drawer/parts";
import { copyChosen, insertHere, keep, nudge, ofChosen, ofShown, onChosen, onShown, pasteHere } from "../../keys/edit";
import { chosenRows, count, handOf, useKeys } from "../../keys/keys";
import { clock } from "../../playback/clock";
import { activeSession as open, useOpen } from "../../workspace/workspace";

const KINDS = ["smooth", "flat", "linear", "stepped", "free"];

export function KeysPanel() {
  const { opened, selected } = useOpen("opened", "selected");
  const hand = handOf(opened!.take.body);
  const keyed = useKeys();
  const [tolerance, setTolerance] = useState(0.005);
  const [report, setReport] = useState<Record<string, KeyReport>>({});
  const held = Object.entries(hand);
  const reduce = () => {
    const edit = ofShown(open(), "reduce", { tolerance });
    if (!edit) return notify({ kind: "info", message: "Choose channels in the region chart first" });
    void open()?.change(async (take) => {
      const made = await api.editKeys(take.id, take.version, "reduce to keys", edit);
      setReport(made.report);
      return made.document;
    });
  };
  return (
    <Box data-testid="keys-panel">
      <Section
        title="Reduce to keys"
        aside={
          <Primary onClick={reduce}>
            Reduce {selected.length === 1 ? selected[0] : `${selected.length} channels`}
          </Primary>
        }
      >
        <AmountField
          label="Tolerance"
          low={0.001}
          high={0.05}
          step={0.001}
          rest={0.005}
          value={tolerance}
          hint="The farthest that a curve may move; thirty times as much in degrees"
          onDrag={setTolerance}
          onCommit={setTolerance}
        />
        <Text fontSize="sm" color="dim">
          From then on a channel holds keys. What lies beneath stays and can be had back.
        </Text>
        {Object.entries(report)
          .filter(([c]) => hand[c])
          .map(([c, r]) => (
            <Fact key={c} name={c}>
              {r.keys} keys
              <Text fontSize="sm" color="dim">
                worst {r.worst.toFixed(4)}, mean {r.mean.toFixed(4)}
              </Text>
            </Fact>
          ))}
      </Section>
      <Section
        title={
          held.length
            ? `${held.length} ${held.length === 1 ? "channel" : "channels"} by hand`
            : "No channel by hand yet"
        }
        aside={
          <Plain
            title="A correction on top of the chosen dense channels, to be keyed"
            onClick={() => onShown(open(), "begin a correction", "correct")}
          >
            Correct on top
          </Plain>
        }
      >
        {!held.length && (
          <Text fontSize="sm" color="dim">
            Draw on a curve or brush it with the tools in the deck: on a dense channel that becomes a correction on top.
          </Text>
        )}
        {held.map(([channel, h]) => (
          <Flex key={channel} justify="space-between" align="center" py="0.5" gap="2">
            <Text minW="0" truncate>
              {channel}
            </Text>
            <Flex gap="2" align="center">
              <Text fontSize="sm" color="dim" whiteSpace="nowrap">
                {h.keys.length} {h.mode === "keys" ? "keys" : "keys on top"}
              </Text>
              <Plain
                size="2xs"
                title="Back to what lies beneath"
                onClick={() =>
                  void keep(open(), `take the keys of ${channel} off`, { do: "clear", channels: { [channel]: [] } }, {})
                }
              >
                take off
              </Plain>
            </Flex>
          </Flex>
        ))}
      </Section>
      <ChosenKeys />
      <Section title="Range">
        <Flex gap="1.5" wrap="wrap">
          <Plain onClick={() => restore("stack")} title="Takes back what was done by hand on the shown channels">
            Restore tidied
          </Plain>
          <Plain onClick={() => restore("raw")} title="The device's own curve comes back on the shown channels">
            Restore raw
          </Plain>
        </Flex>
        <Text fontSize="sm" color="dim" mt="1">
          On the shown channels, over the range in the deck.
        </Text>
      </Section>
      <Section title="Tools">
        <AmountField
          label="Brush"
          unit="frames"
          low={2}
          high={120}
          step={1}
          rest={12}
          value={keyed.size}
          hint="Frames to either side that a brush touches"
          onDrag={(size) => useKeys.setState({ size })}
          onCommit={(size) => useKeys.setState({ size })}
        />
        <AmountField
          label="Paste offset"
          low={-1}
          high={1}
          step={0.01}
          rest={0}
          value={keyed.offset}
          hint="What is added to the values of pasted keys"
          onDrag={(offset) => useKeys.setState({ offset })}
          onCommit={(offset) => useKeys.setState({ offset })}
        />
        <Toggle label="Snap keys to whole frames" on={keyed.snap} onChange={(snap) => useKeys.setState({ snap })} />
        <Toggle
          label="Fit the curve when keys are deleted"
          on={keyed.refit}
          onChange={(refit) => useKeys.setState({ refit })}
        />
        <Flex mt="2" gap="1.5" wrap="wrap">
          <Plain onClick={() => insertHere(open())} title="I">
            Insert here
          </Plain>
          <Plain
            onClick={() => {
              const n = copyChosen(open());
              notify({ kind: "info", message: `${n} keys copied` });
            }}
            title="Ctrl C"
          >
            Copy
          </Plain>
          <Plain onClick={() => pasteHere(open())} title="Ctrl V">
            Paste here
          </Plain>
          <Plain onClick={() => onChosen(open(), "mirror keys", "mirror")} title="The other side gets these keys">
            Mirror
          </Plain>
        </Flex>
      </Section>
    </Box>
  );
}

function restore(to: "stack" | "raw") {
  const { from, to: last } = clock.span;
  const edit = ofShown(open(), "restore", { first: from, last, to });
  if (edit) void keep(open(), to === "raw" ? "restore the raw curve" : "restore the tidied curve", edit, {});
}

function ChosenKeys() {
  const { opened } = useOpen("opened");
  const keyed = useKeys();
  const { chosen } = keyed;
  const hand = handOf(opened!.take.body);
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
