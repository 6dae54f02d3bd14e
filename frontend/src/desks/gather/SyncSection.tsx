// Where the sound belongs: typed, dragged on the wave, or estimated from the lips with a picture of the fit.
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { api, type SyncEstimate } from "../../api/client";
import { notify } from "../../shared/notices";
import { FitPicture } from "../../drawer/FitPicture";
import { Plain, Primary, Section } from "../../drawer/parts";
import { edit, useOpen } from "../../workspace/workspace";

export function SyncSection() {
  const { opened, curves } = useOpen("opened", "curves");
  const [found, setFound] = useState<SyncEstimate | null>(null);
  const [busy, setBusy] = useState(false);
  const take = opened!.take;
  useEffect(() => setFound(null), [take.id]);
  if (!opened!.sources.sound)
    return (
      <Section title="Sound">
        <Text color="dim">This take has no sound. Bring in its WAV and add it to this take.</Text>
      </Section>
    );
  const offset = Number(take.body.soundOffset ?? 0);
  const rate = curves?.rate ?? 60;
  const keep = (seconds: number) =>
    void edit("take", "slide the sound", [{ path: "soundOffset", value: Math.round(seconds * 1e5) / 1e5 }]);
  const ask = async () => {
    setBusy(true);
    try {
      setFound(await api.sync(take.id));
    } catch (error) {
      notify(error as never);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Section
      title="Sound and lips"
      aside={
        <Plain size="2xs" disabled={busy || !curves} onClick={() => void ask()}>
          Estimate from lips
        </Plain>
      }
    >
      <Flex align="center" gap="2">
        <Text color="dim" w="86px" fontSize="sm">
          Sound moves
        </Text>
        <Typed label="Sound offset in frames" value={offset * rate} digits={1} onCommit={(v) => keep(v / rate)} />
        <Text color="dim">frames</Text>
        <Typed label="Sound offset in ms" value={offset * 1000} digits={0} onCommit={(v) => keep(v / 1000)} />
        <Text color="dim">ms</Text>
      </Flex>
      <Text fontSize="xs" color="dim" mt="1">
        Minus moves it earlier. Or drag the wave in the time deck.
      </Text>
      {found && (
        <Box mt="2" data-testid="sync-estimate">
          <FitPicture found={found} now={offset} label="How well sound and lips fit at each offset" />
          <Flex align="center" justify="space-between" mt="1">
            <Text>
              {(found.offset * rate).toFixed(1)} frames, {found.confident ? "sure" : "unsure"} (
              {(found.confidence * 100).toFixed(0)}%)
            </Text>
            <Primary size="2xs" onClick={() => keep(found.offset)}>
              Move the sound there
            </Primary>
          </Flex>
        </Box>
      )}
    </Section>
  );
}

function Typed({
  label,
  value,
  digits,
  onCommit,
}: {
  label: string;
  value: number;
  digits: number;
  onCommit: (v: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = Number(typed?.replace(",", "."));
    if (typed !== null && typed.trim() && Number.isFinite(next)) onCommit(next);
    setTyped(null);
  };
  return (
    <Input
      size="2xs"
      w="58px"
      textAlign="right"
      aria-label={label}
      value={typed ?? (Math.round(value * 10 ** digits) / 10 ** digits || 0).toFixed(digits)}
      onChange={(e) => setTyped(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setTyped(null);
      }}
    />
  );
}
