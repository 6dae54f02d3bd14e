// Handovers that are being made, did not come off, or were several at once with one report.
import { Box, Flex, Text } from "@chakra-ui/react";
import type { Job } from "../api/client";
import { Section } from "../drawer/parts";
import { RunningJob } from "../drawer/RunningJob";
import { Mark } from "./MadeHandover";

type Row = { label: string; ok: boolean; said: string };
const rowsOf = (job: Job) => (job.result.made ?? []) as Row[];

export function HandoverJobs({ jobs }: { jobs: Job[] }) {
  const shown = jobs.filter((j) => j.state !== "done" || rowsOf(j).length > 1);
  if (!shown.length) return null;
  return (
    <Section title="Jobs">
      {shown.map((j) => (j.state === "done" ? <Report key={j.id} job={j} /> : <RunningJob key={j.id} job={j} />))}
    </Section>
  );
}

function Report({ job }: { job: Job }) {
  const rows = rowsOf(job);
  const good = rows.filter((r) => r.ok).length;
  return (
    <Box mb="2" data-testid="handover-report">
      <Text>
        {job.label}: {good} of {rows.length} came off
      </Text>
      {rows.map((r, n) => (
        <Flex key={n} gap="1.5" fontSize="sm">
          <Box flexShrink={0} mt="3px">
            <Mark ok={r.ok} />
          </Box>
          <Text minW="0">
            {r.label}{" "}
            <Text as="span" color="dim">
              {r.said || (r.ok ? "" : "a check of its files failed, see below")}
            </Text>
          </Text>
        </Flex>
      ))}
    </Box>
  );
}
