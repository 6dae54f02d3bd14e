// Comparing: raw with tidied, or this take with another of the same moment; bands, a lane and numbers.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api } from "../../api/client";
import { Fact, Section } from "../../drawer/parts";
import { difference } from "../../workspace/difference";
import type { Curves } from "../../workspace/tables";
import { compareWith, compareWithTake, useOpen } from "../../workspace/workspace";

type Numbers = Record<string, [number, number, number, number]>;

export function ComparePanel() {
  const { opened, curves, selected, against } = useOpen("opened", "curves", "selected", "against");
  const { id, production } = opened!.take;
  const takes =
    useQuery({ queryKey: ["takes", production, "compare"], queryFn: () => api.takes(production) }).data ?? [];
  const [numbers, setNumbers] = useState<Numbers | null>(null);
  const footage = !!opened!.sources.footage;
  const solves =
    useQuery({ queryKey: ["solves", id, "compare"], queryFn: () => api.solves(id), enabled: footage }).data ?? [];
  const chosen = opened!.sources.curves?.id;
  const other = takes.find((t) => t.id === against?.source);
  const choose = (value: string) => {
    const take = takes.find((t) => t.id === value);
    const solve = solves.find((s) => s.source === value);
    setNumbers(null);
    if (solve) void compareWith({ source: solve.source, name: solve.name });
    else void compareWithTake(take ? { id: take.id, slate: take.slate } : null).then(setNumbers);
  };
  const rows = useMemo(() => (curves ? differences(curves.raw.data, curves, selected) : []), [curves, selected]);
  const between = useMemo(
    () => (curves && against ? differences(against.raw.data, curves, selected) : []),
    [curves, against, selected],
  );
  return (
    <>
      <Section title="Raw to tidied">
        {rows.map((r) => (
          <Fact key={r.name} name={r.name}>
            RMS {r.rms.toFixed(4)}, peak {r.peak.toFixed(3)}
            <Text fontSize="sm" color="dim">
              jitter {r.jitterBefore.toFixed(0)} → {r.jitterAfter.toFixed(0)} /s³
            </Text>
          </Fact>
        ))}
        {!rows.length && <Text color="dim">Choose channels in the region chart.</Text>}
      </Section>
      <Section title={footage ? "Another take or solve" : "Another take"}>
        <Flex mb="2">
          <NativeSelect.Root size="xs">
            <NativeSelect.Field
              aria-label="Compare with take"
              value={against?.source ?? ""}
              onChange={(e) => choose(e.target.value)}
            >
              <option value="">none</option>
              {solves
                .filter((s) => s.source !== chosen)
                .map((s) => (
                  <option key={s.source} value={s.source}>
                    {s.name} of this clip
                  </option>
                ))}
              {takes
                .filter((t) => t.id !== id && t.holds.includes("curves") && !t.archived)
                .map((t) => (
                  <option key={t.id} value={t.id}>
                    {t.slate} {t.performer}
                  </option>
                ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </Flex>
        {other && numbers ? (
          selected
            .filter((c) => numbers[c])
            .slice(0, 8)
            .map((c) => (
              <Fact key={c} name={c}>
                RMS {numbers[c]![0].toFixed(3)}, peak {numbers[c]![1].toFixed(2)}
                <Text fontSize="sm" color="dim">
                  jitter {numbers[c]![2].toFixed(0)} here, {numbers[c]![3].toFixed(0)} there
                </Text>
              </Fact>
            ))
        ) : against && !other ? (
          between.map((r) => (
            <Fact key={r.name} name={r.name}>
              RMS {r.rms.toFixed(3)}, peak {r.peak.toFixed(2)}
              <Text fontSize="sm" color="dim">
                jitter {r.jitterAfter.toFixed(0)} here, {r.jitterBefore.toFixed(0)} there
              </Text>
            </Fact>
          ))
        ) : (
          <Text fontSize="sm" color="dim">
            Two recordings of one moment, as tidied, put together by their timecodes or by their starts. The deck shades
            the difference and gives it a lane.
          </Text>
        )}
      </Section>
    </>
  );
}

/** From another set of curves on the same frames to the tidied ones, for the chosen channels. */
function differences(from: Float32Array, curves: Curves, selected: string[]) {
  if (from.length !== curves.tidied.data.length) return [];
  return selected.slice(0, 8).flatMap((name) => {
    const column = curves.channels.indexOf(name);
    return column < 0
      ? []
      : [{ name, ...difference(from, curves.tidied.data, curves.channels.length, column, curves.rate) }];
  });
}
