// Direct drive: channels that are the distance of two markers, for rigs that need no face solved.
import { Box, Flex, IconButton, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { useCatalogue } from "../../app/catalogue";
import { Plain, Section } from "../../drawer/parts";
import { useCame } from "../../markers/cloud";
import { distance } from "../../markers/geometry";
import { changeLayout, useLayout, useMarkers, type Drive } from "../../markers/layouts";
import { clock } from "../../playback/clock";

const REACH = 15; // millimetres that a new drive reaches over

export function DrivePanel() {
  const { layout, body } = useLayout();
  const raw = useCame();
  const { shapes } = useCatalogue();
  const { selected } = useMarkers();
  const client = useQueryClient();
  if (!layout || !body || !raw) return null;
  const drives = body.drives ?? {};
  const free = ["jawOpen", ...shapes].find((s) => !(s in drives));
  const keep = (label: string, next: Record<string, Drive>) => void changeLayout(layout, label, { drives: next }).then(() => client.invalidateQueries({ queryKey: ["layouts"] }));
  const rest = (from: string, to: string) => {
    const now = distance(raw, clock.frame, from, to);
    return Number.isFinite(now) ? Math.round(now * 10) / 10 : 0;
  };
  const add = () => {
    const at = (place: string, other: string) => Object.entries(body.places).find(([l, p]) => p === place && raw.labels.includes(l))?.[0] ?? other;
    const from = selected && raw.labels.includes(selected) ? selected : at("upper lip mid", raw.labels[0]!);
    const to = at("chin", raw.labels[1]!) === from ? raw.labels[0]! : at("chin", raw.labels[1]!);
    keep(`drive ${free}`, { ...drives, [free!]: { from, to, rest: rest(from, to), reach: REACH, low: 0, high: 1 } });
  };
  return (
    <Section title="Direct drive" aside={<Plain size="2xs" disabled={!free || raw.labels.length < 2} onClick={add}>Add</Plain>}>
      {!Object.keys(drives).length && <Text fontSize="sm" color="dim">A channel can be the distance of two markers, in place of what is solved: for a rig that only opens a jaw, say.</Text>}
      {Object.entries(drives).map(([channel, drive]) => (
        <OneDrive key={channel} channel={channel} drive={drive} labels={raw.labels} channels={shapes.filter((s) => s === channel || !(s in drives))} here={() => rest(drive.from, drive.to)}
          onChange={(next, as) => keep(`drive ${as}`, Object.fromEntries(Object.entries(drives).map(([c, d]) => (c === channel ? [as, next] : [c, d]))))}
          onDrop={() => keep(`no drive of ${channel}`, Object.fromEntries(Object.entries(drives).filter(([c]) => c !== channel)))} />
      ))}
    </Section>
  );
}

type Props = { channel: string; drive: Drive; labels: string[]; channels: string[]; here: () => number; onChange: (drive: Drive, channel: string) => void; onDrop: () => void };

function OneDrive({ channel, drive, labels, channels, here, onChange, onDrop }: Props) {
  const choice = (label: string, value: string, options: string[], pick: (v: string) => void) => (
    <NativeSelect.Root size="xs"><NativeSelect.Field aria-label={label} value={value} onChange={(e) => pick(e.target.value)}>{options.map((o) => <option key={o} value={o}>{o}</option>)}</NativeSelect.Field><NativeSelect.Indicator /></NativeSelect.Root>
  );
  return (
    <Box borderWidth="1px" borderColor="line" borderRadius="sm" p="1.5" mb="1.5" data-testid="drive">
      <Flex gap="1" align="center">{choice("Driven channel", channel, channels, (c) => onChange(drive, c))}<IconButton aria-label={`Drop the drive of ${channel}`} size="2xs" variant="ghost" onClick={onDrop}><X size={13} /></IconButton></Flex>
      <Flex gap="1" mt="1">{choice(`${channel} from`, drive.from, labels.filter((l) => l !== drive.to), (from) => onChange({ ...drive, from }, channel))}{choice(`${channel} to`, drive.to, labels.filter((l) => l !== drive.from), (to) => onChange({ ...drive, to }, channel))}</Flex>
      <Flex gap="1.5" mt="1" align="center" fontSize="sm">
        <Text color="dim">0 at</Text><Millimetres label={`Rest of ${channel}`} value={drive.rest} onCommit={(rest) => onChange({ ...drive, rest }, channel)} />
        <Text color="dim">1 at</Text><Millimetres label={`${channel} is 1 at`} value={Math.round((drive.rest + drive.reach) * 10) / 10} onCommit={(full) => onChange({ ...drive, reach: Math.round((full - drive.rest) * 100) / 100 }, channel)} />
        <Text color="dim">mm</Text><Plain size="2xs" title="Take the distance at the playhead for 0" onClick={() => onChange({ ...drive, rest: here() }, channel)}>0 is here</Plain>
      </Flex>
    </Box>
  );
}

function Millimetres({ label, value, onCommit }: { label: string; value: number; onCommit: (v: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = Number(typed);
    setTyped(null);
    if (typed !== null && Number.isFinite(next) && next !== value) onCommit(next);
  };
  return <Input size="2xs" w="52px" textAlign="right" aria-label={label} value={typed ?? String(value)} onChange={(e) => setTyped(e.target.value)} onBlur={keep} onKeyDown={(e) => { if (e.key === "Enter") keep(); }} />;
}
