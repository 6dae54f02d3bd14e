import { Box, Flex, IconButton, Progress, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import type { Job } from "../../api/client";

/** One job that has not ended well yet: how far it is, or why it failed. */
export function JobRow({ job, onCancel }: { job: Job; onCancel: () => void }) {
  const going = job.state === "queued" || job.state === "running";
  return (
    <Box mt="2" data-testid="solve-job">
      <Flex justify="space-between" align="center" gap="2">
        <Text fontSize="sm">{job.label}</Text>
        {going && (
          <IconButton aria-label={`Cancel ${job.label}`} size="2xs" variant="ghost" onClick={onCancel}>
            <X size={13} />
          </IconButton>
        )}
      </Flex>
      {going ? (
        <Progress.Root value={job.progress * 100} size="xs">
          <Progress.Track bg="bg.pressed">
            <Progress.Range bg="accent" />
          </Progress.Track>
        </Progress.Root>
      ) : null}
      <Text fontSize="sm" color={job.state === "failed" ? "accent" : "dim"}>
        {going ? job.message || "waiting" : `${job.state}: ${job.message}`}
      </Text>
    </Box>
  );
}
