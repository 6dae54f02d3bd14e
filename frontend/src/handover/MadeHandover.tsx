// A handover that was made: its report, and its files to keep.
import { Box, Flex, Text } from "@chakra-ui/react";
import { Archive, Check, Download, Minus, TriangleAlert } from "lucide-react";
import type { Handover } from "../api/client";
import { useState } from "react";
import { Plain } from "../drawer/parts";
import { type Checked, sizeOf, telling } from "./handoverModel";

type Report = { ok: boolean; frames: number; seconds: number; rate: string; checks: Checked[] };

export function MadeHandover({ handover }: { handover: Handover }) {
  const report = handover.report as Report;
  const [all, setAll] = useState(false);
  const shown = all ? report.checks : telling(report.checks);
  const more = report.checks.length - shown.length;
  return (
    <Box borderWidth="1px" borderColor="line" borderRadius="sm" p="2" mb="2" bg="bg.raised" data-testid="handover">
      <Flex justify="space-between">
        <Text fontWeight="600">{handover.label}</Text>
        <Text color="dim" fontSize="sm">
          {new Date(handover.created).toLocaleTimeString()}
        </Text>
      </Flex>
      <Text color="dim" fontSize="sm">
        {report.frames} frames, {report.seconds.toFixed(2)} s at {report.rate} fps
      </Text>
      {shown.map((c, n) => (
        <Flex key={n} gap="1.5" fontSize="sm" align="flex-start" title={c.found}>
          <Box flexShrink={0} mt="3px">
            <Mark ok={c.ok} />
          </Box>
          <Text minW="0" overflowWrap="anywhere">
            {c.what}:{" "}
            <Text as="span" color="dim">
              {c.found}
            </Text>
          </Text>
        </Flex>
      ))}
      {more > 0 && (
        <Plain size="2xs" mt="1" onClick={() => setAll(true)}>
          {more} more checks came off
        </Plain>
      )}
      <Flex gap="1" mt="1.5" wrap="wrap">
        {handover.files.map((f, i) => (
          <a key={String(f.name)} href={`/api/handovers/${handover.id}/files/${i}`} download={String(f.name)}>
            <Plain size="2xs">
              <Download size={12} />
              {String(f.name)}{" "}
              <Text as="span" color="dim">
                {sizeOf(Number(f.size))}
              </Text>
            </Plain>
          </a>
        ))}
        <a href={`/api/handovers/${handover.id}/archive`} download>
          <Plain size="2xs">
            <Archive size={12} />
            all as .zip
          </Plain>
        </a>
      </Flex>
    </Box>
  );
}

export function Mark({ ok }: { ok: boolean | null }) {
  if (ok === null) return <Minus size={13} />;
  return ok ? <Check size={13} /> : <TriangleAlert size={13} color="var(--chakra-colors-accent)" />;
}
