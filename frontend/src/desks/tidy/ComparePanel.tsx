// Comparing: raw with tidied, or this take with another of the same moment; bands, a lane and numbers.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api } from "../../api/client";
import { Fact, Section } from "../../drawer/parts";
import { difference } from "../../workspace/difference";
import { compareWithTake, useOpen } from "../../workspace/workspace";

type Numbers = Record<string, [number, number, number, number]>;

export function ComparePanel() {
  const { opened, curves, selected, against } = useOpen("opened", "curves", "selected", "against");
  const { id, production } = opened!.take;
  const takes = useQuery({ queryKey: ["takes", production, "compare"], queryFn: () => api.takes(production) }).data ?? [];
  const [numbers, setNumbers] = useState<Numbers | null>(null);
  const other = takes.find((t) => t.id === against?.source);
  const rows = useMemo(() => {
    if (!curves || curves.raw.data.length !== curves.tidied.data.length) return [];
    return selected.slice(0, 8).flatMap((name) => {
      const column = curves.channels.indexOf(name);
      return column < 0 ? [] : [{ name, ...difference(curves.raw.data, curves.tidied.data, curves.channels.length, column, curves.rate) }];
    });
  }, [curves, selected]);
  return (
    <>
      <Section title="Raw to tidied">
        {rows.map((r) => <Fact key={r.name} name={r.name}>RMS {r.rms.toFixed(4)}, peak {r.peak.toFixed(3)}<Text fontSize="sm" color="dim">jitter {r.jitterBefore.toFixed(0)} → {r.jitterAfter.toFixed(0)} /s³</Text></Fact>)}
        {!rows.length && <Text color="dim">Choose channels in the region chart.</Text>}
      </Section>
      <Section title="Another take">
        <Flex mb="2"><NativeSelect.Root size="xs"><NativeSelect.Field aria-label="Compare with take" value={other?.id ?? ""} onChange={(e) => { const t = takes.find((x) => x.id === e.target.value); void compareWithTake(t ? { id: t.id, slate: t.slate } : null).then(setNumbers); }}><option value="">none</option>{takes.filter((t) => t.id !== id && t.holds.includes("curves") && !t.archived).map((t) => <option key={t.id} value={t.id}>{t.slate} {t.performer}</option>)}</NativeSelect.Field><NativeSelect.Indicator /></NativeSelect.Root></Flex>
        {other && numbers ? selected.filter((c) => numbers[c]).slice(0, 8).map((c) => <Fact key={c} name={c}>RMS {numbers[c]![0].toFixed(3)}, peak {numbers[c]![1].toFixed(2)}<Text fontSize="sm" color="dim">jitter {numbers[c]![2].toFixed(0)} here, {numbers[c]![3].toFixed(0)} there</Text></Fact>) : <Text fontSize="sm" color="dim">Two recordings of one moment, as tidied, put together by their timecodes or by their starts. The deck shades the difference and gives it a lane.</Text>}
      </Section>
    </>
  );
}
