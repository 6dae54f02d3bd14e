// Where a step acts: everywhere, on channels or regions, over a range of frames with soft edges, and how much of it.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { AmountField, Plain } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useClock } from "../../playback/useClock";
import { useRegions } from "../../workspace/regions";
import { select, useOpen } from "../../workspace/workspace";
import { placesOf, type Place, type Step } from "./stack";

type Props = {
  step: Step;
  needsPlace: boolean;
  onChange: (name: string, value: unknown) => void;
  onDrag: (name: string, value: unknown) => void;
};

export function Where({ step, needsPlace, onChange, onDrag }: Props) {
  const { selected } = useOpen("selected");
  const regions = useRegions();
  const { range } = useClockRange();
  const places = placesOf(step);
  const only = places[0];
  const single = places.length <= 1;
  const kind = !only
    ? "all"
    : only.regions?.length
      ? `region:${only.regions[0]}`
      : only.channels?.length
        ? "channels"
        : "all";
  const put = (place: Place) => {
    const empty =
      !place.channels?.length &&
      !place.regions?.length &&
      (place.first ?? null) === null &&
      (place.last ?? null) === null;
    onChange("places", empty ? [] : [place]);
  };
  const here: Place = only ?? {};
  const scope = (value: string) => {
    const { first = null, last = null } = here;
    if (value === "all") put({ channels: [], regions: [], first, last });
    else if (value === "channels") put({ channels: selected, regions: [], first, last });
    else put({ channels: [], regions: [value.slice(7)], first, last });
  };
  const added: Place = {
    channels: selected,
    regions: [],
    first: range?.from ?? clock.frame,
    last: range?.to ?? clock.frame,
  };
  return (
    <Box borderTopWidth="1px" borderColor="line" mt="1" pt="2" data-testid="where">
      <Text fontSize="sm" color="dim" mb="1">
        Where{needsPlace && !places.length ? ": give it a range, without one it does nothing" : ""}
      </Text>
      {single ? (
        <>
          <Flex gap="1.5" mb="1">
            <NativeSelect.Root size="xs" flex="1">
              <NativeSelect.Field aria-label="Acts on" value={kind} onChange={(e) => scope(e.target.value)}>
                <option value="all">all channels</option>
                <option value="channels">
                  {kind === "channels"
                    ? here.channels!.length > 2
                      ? `${here.channels!.length} channels`
                      : here.channels!.join(", ")
                    : "the chosen channels"}
                </option>
                {regions.map((r) => (
                  <option key={r.name} value={`region:${r.name}`}>
                    {r.name}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
            {kind === "channels" && <Plain onClick={() => put({ ...here, channels: selected })}>take chosen</Plain>}
          </Flex>
          <Flex gap="1.5" mb="1" align="center">
            <Text flex="1" fontSize="sm">
              {(here.first ?? null) === null && (here.last ?? null) === null
                ? "the whole take"
                : `frames ${here.first ?? "start"} to ${here.last ?? "end"}`}
            </Text>
            <Plain
              disabled={!range}
              title="Set a range in the deck with [ and ], or Shift and drag on the ruler"
              onClick={() => put({ ...here, first: range!.from, last: range!.to })}
            >
              the range
            </Plain>
            <Plain
              disabled={(here.first ?? null) === null && (here.last ?? null) === null}
              onClick={() => put({ ...here, first: null, last: null })}
            >
              whole take
            </Plain>
          </Flex>
        </>
      ) : (
        <Box maxH="150px" overflowY="auto" mb="1">
          {places.map((p, i) => (
            <Flex key={i} align="center" gap="1" fontSize="sm" py="0.5">
              <Box
                as="button"
                flex="1"
                minW="0"
                textAlign="left"
                cursor="pointer"
                onClick={() => {
                  if (p.first !== null && p.first !== undefined) clock.seekFrame(p.first);
                  if (p.channels?.length) select(p.channels.slice(0, 8));
                }}
              >
                <Text truncate>
                  {p.first ?? "start"} to {p.last ?? "end"}{" "}
                  <Text as="span" color="dim">
                    {[...(p.regions ?? []), ...(p.channels ?? [])].slice(0, 2).join(", ") || "all channels"}
                  </Text>
                </Text>
              </Box>
              <IconButton
                aria-label={`Take place ${i + 1} out`}
                size="2xs"
                variant="ghost"
                onClick={() =>
                  onChange(
                    "places",
                    places.filter((_, n) => n !== i),
                  )
                }
              >
                <X size={12} />
              </IconButton>
            </Flex>
          ))}
        </Box>
      )}
      {places.length > 0 && (
        <Plain size="2xs" mb="1" onClick={() => onChange("places", [...places, added])}>
          Add {range ? "the range" : "this frame"} on the chosen channels
        </Plain>
      )}
      {places.length > 0 && (
        <AmountField
          label="Soft edge"
          unit="frames"
          low={0}
          high={60}
          step={1}
          rest={0}
          value={Number(step.ramp ?? 0)}
          hint="Frames over which the step comes in and goes, outside its range"
          onDrag={(v) => onDrag("ramp", v)}
          onCommit={(v) => onChange("ramp", v)}
        />
      )}
      <AmountField
        label="Mix"
        low={0}
        high={1}
        step={0.01}
        rest={1}
        value={Number(step.mix ?? 1)}
        hint="How much of the step's result is taken"
        onDrag={(v) => onDrag("mix", v)}
        onCommit={(v) => onChange("mix", v)}
      />
    </Box>
  );
}

function useClockRange() {
  useClock();
  return { range: clock.range };
}
