// Direct drive: channels that are the distance of two markers, dots or places of the face, with rest, gain and limits.
import { Box, Flex, IconButton, Input, NativeSelect, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useState } from "react";
import { useCatalogue } from "../../shared/catalogue";
import { Plain, Section } from "../../drawer/parts";
import type { Drive, Drives } from "../../markers/layouts";

const REACH = 15; // millimetres that a new drive reaches over
/** labels: what may drive; named: in words; usual: which two a new drive goes between; here: millimetres between two at
 * the playhead, where they are known. */
type Props = {
  drives: Drives;
  labels: string[];
  named?: (label: string) => string;
  usual: [string | undefined, string | undefined];
  here?: (one: string, two: string) => number;
  what: string;
  onKeep: (label: string, next: Drives) => void;
};

export function DriveRows({ drives, labels, named = (l) => l, usual, here, what, onKeep }: Props) {
  const { shapes, channels, regionOf } = useCatalogue();
  const all = [...shapes, ...channels.filter((c) => regionOf[c] === "extra")];
  const free = ["jawOpen", ...all].find((s) => !(s in drives));
  const add = () => {
    const from = usual[0] ?? labels[0]!;
    const to = usual[1] && usual[1] !== from ? usual[1] : labels.find((l) => l !== from)!;
    const rest = here?.(from, to);
    onKeep(`drive ${free}`, {
      ...drives,
      [free!]: {
        from,
        to,
        rest: rest !== undefined && Number.isFinite(rest) ? rest : null,
        reach: REACH,
        low: 0,
        high: 1,
      },
    });
  };
  return (
    <Section
      title="Direct drive"
      aside={
        <Plain size="2xs" disabled={!free || labels.length < 2} onClick={add}>
          Add
        </Plain>
      }
    >
      {!Object.keys(drives).length && (
        <Text fontSize="sm" color="dim">
          A channel can be the distance of two {what}, in place of what is solved: for a rig that only opens a jaw, say.
          One of distance1 to distance8 is no shape of the face: at the Cast desk it turns or slides a joint, and what
          is solved stays.
        </Text>
      )}
      {Object.entries(drives).map(([channel, drive]) => (
        <OneDrive
          key={channel}
          channel={channel}
          drive={drive}
          labels={labels}
          named={named}
          channels={all.filter((s) => s === channel || !(s in drives))}
          here={here && (() => here(drive.from, drive.to))}
          onChange={(next, as) =>
            onKeep(
              `drive ${as}`,
              Object.fromEntries(Object.entries(drives).map(([c, d]) => (c === channel ? [as, next] : [c, d]))),
            )
          }
          onDrop={() =>
            onKeep(`no drive of ${channel}`, Object.fromEntries(Object.entries(drives).filter(([c]) => c !== channel)))
          }
        />
      ))}
    </Section>
  );
}

type Row = {
  channel: string;
  drive: Drive;
  labels: string[];
  named: (label: string) => string;
  channels: string[];
  here?: () => number;
  onChange: (drive: Drive, channel: string) => void;
  onDrop: () => void;
};

function OneDrive({ channel, drive, labels, named, channels, here, onChange, onDrop }: Row) {
  const choice = (
    label: string,
    value: string,
    options: string[],
    pick: (v: string) => void,
    say = (o: string) => o,
  ) => (
    <NativeSelect.Root size="xs">
      <NativeSelect.Field aria-label={label} value={value} onChange={(e) => pick(e.target.value)}>
        {options.map((o) => (
          <option key={o} value={o}>
            {say(o)}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
  const set = (more: Partial<Drive>) => onChange({ ...drive, ...more }, channel);
  return (
    <Box borderWidth="1px" borderColor="line" borderRadius="sm" p="1.5" mb="1.5" data-testid="drive">
      <Flex gap="1" align="center">
        {choice("Driven channel", channel, channels, (c) => onChange(drive, c))}
        <IconButton aria-label={`Drop the drive of ${channel}`} size="2xs" variant="ghost" onClick={onDrop}>
          <X size={13} />
        </IconButton>
      </Flex>
      <Flex gap="1" mt="1">
        {choice(
          `${channel} from`,
          drive.from,
          labels.filter((l) => l !== drive.to),
          (from) => set({ from }),
          named,
        )}
        {choice(
          `${channel} to`,
          drive.to,
          labels.filter((l) => l !== drive.from),
          (to) => set({ to }),
          named,
        )}
      </Flex>
      <Flex gap="1.5" mt="1" align="center" fontSize="sm">
        <Text color="dim" title="Empty: what is between them in the neutral face">
          0 at
        </Text>
        <Typed label={`Rest of ${channel}`} value={drive.rest} onCommit={(rest) => set({ rest })} empty="neutral" />
        <Text color="dim" whiteSpace="nowrap">
          mm, 1 after
        </Text>
        <Typed label={`Reach of ${channel}`} value={drive.reach} onCommit={(reach) => reach && set({ reach })} />
        <Text color="dim">mm</Text>
      </Flex>
      <Flex gap="1.5" mt="1" align="center" fontSize="sm">
        <Text color="dim">Limits</Text>
        <Typed label={`Least of ${channel}`} value={drive.low} onCommit={(low) => low !== null && set({ low })} />
        <Typed label={`Most of ${channel}`} value={drive.high} onCommit={(high) => high !== null && set({ high })} />
        {here && (
          <Plain
            size="2xs"
            ml="auto"
            title="Take the distance at the playhead for 0"
            onClick={() => set({ rest: here() })}
          >
            0 is here
          </Plain>
        )}
      </Flex>
    </Box>
  );
}

function Typed({
  label,
  value,
  onCommit,
  empty,
}: {
  label: string;
  value: number | null;
  onCommit: (v: number | null) => void;
  empty?: string;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = typed === null ? NaN : typed.trim() ? Number(typed.replace(",", ".")) : null;
    setTyped(null);
    if (next === null ? empty && value !== null : Number.isFinite(next) && next !== value) onCommit(next);
  };
  return (
    <Input
      size="2xs"
      w="56px"
      px="1"
      textAlign="right"
      aria-label={label}
      placeholder={empty}
      value={typed ?? (value === null ? "" : String(value))}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") keep();
        if (e.key === "Escape") setTyped(null);
      }}
    />
  );
}
