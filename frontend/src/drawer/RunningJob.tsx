// A job that is not done: how far it is, a way to stop it, or why it did not come off.
import { Box, Flex, Progress, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { api, type Job } from "../api/client";
import { notify } from "../shared/notices";
import { Plain } from "./parts";

export function RunningJob({ job }: { job: Job }) {
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
