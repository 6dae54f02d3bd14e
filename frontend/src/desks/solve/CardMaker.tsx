// A performer card from this clip: neutral and samples are proposed, each can be moved or dropped, then it is measured.
import { Box, Flex, IconButton, Input, Text } from "@chakra-ui/react";
import { Crosshair, X } from "lucide-react";
import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue } from "../../app/catalogue";
import { notify } from "../../app/notices";
import { Plain, Primary, Section, TextField } from "../../drawer/parts";
import { clock } from "../../playback/clock";

type Given = { name: string; neutral: [number, number] | null; samples: Record<string, number>; turn: null; fov: number };

export function CardMaker({ take, performer, busy, onMake }: { take: string; performer: string; busy: boolean; onMake: (given: Given) => Promise<void> }) {
  const { shapes } = useCatalogue();
  const [neutral, setNeutral] = useState<[number, number] | null>(null);
  const [samples, setSamples] = useState<Record<string, number>>({});
  const [name, setName] = useState<string | null>(null);
  const [fov, setFov] = useState("40");
  const shown = name ?? `${performer || "Performer"}, ${new Date().toISOString().slice(0, 10)}`;
  const propose = async () => {
    try {
      const found = await api.proposals(take);
      setNeutral(found.neutral as [number, number]);
      setSamples(found.samples);
    } catch (error) {
      notify(error as never);
    }
  };
  const drop = (shape: string) => setSamples(Object.fromEntries(Object.entries(samples).filter(([s]) => s !== shape)));
  const rows = Object.entries(samples).sort((a, b) => a[1] - b[1]);
  const missing = shapes.filter((s) => !(s in samples) && s !== "tongueOut");
  return (
    <Section title="Performer card from this clip" aside={<Plain size="2xs" onClick={() => void propose()}>Propose</Plain>}>
      {neutral === null ? <Text color="dim" fontSize="sm">For a range of motion: the still face and the frame of each expression's extreme are looked for and listed here, to be checked before the face is measured.</Text> : (
        <Box data-testid="card-maker">
          <TextField label="Name" value={shown} onCommit={setName} />
          <Flex align="center" gap="2" py="0.5"><Text w="86px" fontSize="sm" color="dim">Neutral</Text>{[0, 1].map((i) => <Frame key={i} label={i ? "Last neutral frame" : "First neutral frame"} value={neutral[i]!} onCommit={(v) => setNeutral(i ? [neutral[0], v] : [v, neutral[1]])} />)}<Text fontSize="xs" color="dim">frames</Text></Flex>
          <Flex align="center" gap="2" py="0.5"><Text w="86px" fontSize="sm" color="dim">Lens</Text><Input size="2xs" w="52px" textAlign="right" aria-label="Field of view" value={fov} onChange={(e) => setFov(e.target.value)} /><Text fontSize="xs" color="dim">° top to bottom</Text></Flex>
          <Box maxH="190px" overflowY="auto" my="1">
            {rows.map(([shape, frame]) => (
              <Flex key={shape} align="center" gap="1" py="0.5">
                <Box as="button" flex="1" textAlign="left" fontSize="sm" cursor="pointer" truncate title="Show this frame" onClick={() => clock.seekFrame(frame)}>{shape}</Box>
                <Frame label={`Frame of ${shape}`} value={frame} onCommit={(v) => setSamples({ ...samples, [shape]: v })} />
                <IconButton aria-label={`Take ${shape} from the playhead`} title="Take it from the playhead" size="2xs" variant="ghost" onClick={() => setSamples({ ...samples, [shape]: clock.frame })}><Crosshair size={12} /></IconButton>
                <IconButton aria-label={`Drop ${shape}`} size="2xs" variant="ghost" onClick={() => drop(shape)}><X size={12} /></IconButton>
              </Flex>
            ))}
          </Box>
          {missing.length > 0 && <Flex gap="1" wrap="wrap" mb="2" align="center"><Text fontSize="xs" color="dim" w="100%">Without a sample, from the general face ({missing.length}). Click one to take it from the playhead.</Text>{missing.slice(0, 30).map((s) => <Plain key={s} size="2xs" fontSize="xs" h="18px" px="1.5" onClick={() => setSamples({ ...samples, [s]: clock.frame })}>{s}</Plain>)}</Flex>}
          <Primary disabled={busy} onClick={() => void onMake({ name: shown, neutral, samples, turn: null, fov: Number(fov) || 40 })}>Measure the face</Primary>
        </Box>
      )}
    </Section>
  );
}

function Frame({ label, value, onCommit }: { label: string; value: number; onCommit: (v: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = Math.round(Number(typed));
    setTyped(null);
    if (typed !== null && Number.isFinite(next) && next >= 0 && next !== value) onCommit(next);
  };
  return <Input size="2xs" w="52px" textAlign="right" aria-label={label} value={typed ?? String(value)} onChange={(e) => setTyped(e.target.value)} onBlur={keep} onKeyDown={(e) => { if (e.key === "Enter") keep(); }} />;
}
