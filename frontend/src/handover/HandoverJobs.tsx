// Handovers that are being made, did not come off, or were several at once with one report.
import { Box, Flex, Progress, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { api, type Job } from "../api/client";
import { Plain, Section } from "../drawer/parts";
import { notify } from "../shared/notices";
import { Mark } from "./MadeHandover";

type Row = { label: string; ok: boolean; said: string };
const rowsOf = (job: Job) => (job.result.made ?? []) as Row[];

export function HandoverJobs({ jobs }: { jobs: Job[] }) {
  const shown = jobs.filter((j) => j.state !== "done" || rowsOf(j).length > 1);
  if (!shown.length) return null;
  return (
    <Section title="Jobs">
      {shown.map((j) => (j.state === "done" ? <Report key={j.id} job={j} /> : <Running key={j.id} job={j} />))}
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

function Running({ job }: { job: Job }) {
  const client = useQueryClient();
  const active = job.state === "queued" || job.state === "running";
  return (
    <Box mb="2">
      <Flex justify="space-between">
        <Text>{job.label}</Text>
        <Text color="dim">{job.state}</Text>
      </Flex>
      {active && (
        <Flex align="center" gap="2">
          <Progress.Root value={job.progress * 100} flex="1" size="xs">
            <Progress.Track bg="bg.pressed">
              <Progress.Range bg="accent" />
            </Progress.Track>
          </Progress.Root>
          <Plain
            size="2xs"
            onClick={() =>
              void api.cancelJob(job.id).then(() => client.invalidateQueries({ queryKey: ["jobs"] }), notify)
            }
          >
            Cancel
          </Plain>
        </Flex>
      )}
      {job.message && (
        <Text fontSize="sm" color="dim">
          {job.message}
        </Text>
      )}
    </Box>
  );
}
