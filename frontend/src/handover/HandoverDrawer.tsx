// Handing over: from wherever one is; all handovers with their reports below.
import { Box, Flex, IconButton, NativeSelect, Progress, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Check, Download, Minus, TriangleAlert, X } from "lucide-react";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, type Handover, type Job } from "../api/client";
import { notify } from "../shared/notices";
import { Plain, Primary, Section, Toggle } from "../drawer/parts";
import { nameOfRole } from "../workspace/state";
import { useOpen } from "../workspace/workspace";

type Checked = { what: string; ok: boolean | null; found: string };

export function HandoverDrawer({ onClose }: { onClose: () => void }) {
  const { production = "" } = useParams();
  const client = useQueryClient();
  const { opened, shot, curves } = useOpen("opened", "shot", "curves");
  const of = shot ? `${shot.opened.shot.body.name}, ${nameOfRole(shot, shot.role)}` : (opened?.take.body.slate ?? "");
  const [settings, setSettings] = useState({ glb: true, table: true, bvh: false, head: true, rate: "" });
  const jobs = useQuery({ queryKey: ["jobs", production], queryFn: () => api.jobs(production) }).data ?? [];
  const handovers = useQuery({ queryKey: ["handovers", production], queryFn: () => api.handovers(production) });
  const mine = jobs.filter((j) => j.kind.endsWith("handover")).slice(0, 4);
  const done = mine.filter((j) => j.state === "done").length;
  const { refetch } = handovers;
  useEffect(() => {
    void refetch();
    void client.invalidateQueries({ queryKey: ["takes"] });
  }, [done, refetch, client]);
  const begin = async () => {
    try {
      await (shot
        ? api.handOverRole(shot.opened.shot.id, shot.role, settings)
        : api.handOver(opened!.take.id, settings));
      await client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      notify(error as never);
    }
  };
  const set = (by: Partial<typeof settings>) => setSettings({ ...settings, ...by });
  return (
    <Box data-testid="handover-drawer">
      <Section
        title={`Hand over ${of}`}
        aside={
          <IconButton aria-label="Close handovers" size="2xs" variant="ghost" onClick={onClose}>
            <X size={14} />
          </IconButton>
        }
      >
        {curves ? (
          <Flex direction="column" gap="2">
            <Toggle label="Character with its motion (.glb)" on={settings.glb} onChange={(glb) => set({ glb })} />
            <Toggle label="Curve table (.csv)" on={settings.table} onChange={(table) => set({ table })} />
            <Toggle label="Body (.bvh)" on={settings.bvh} onChange={(bvh) => set({ bvh })} />
            <Toggle label="Head motion in the table" on={settings.head} onChange={(head) => set({ head })} />
            <Flex align="center" gap="2">
              <Text color="dim">Rate</Text>
              <NativeSelect.Root size="xs" w="150px">
                <NativeSelect.Field
                  aria-label="Rate of the handover"
                  value={settings.rate}
                  onChange={(e) => set({ rate: e.target.value })}
                >
                  <option value="">as it is ({curves.rateText})</option>
                  {["24", "25", "30", "48", "50", "60"].map((r) => (
                    <option key={r} value={r}>
                      {r} fps
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Flex>
            {shot && (
              <Text fontSize="sm" color="dim">
                One role a file: the one that is worked on. The shot's mixed sound goes along.
              </Text>
            )}
            <Primary alignSelf="flex-start" onClick={() => void begin()}>
              Hand over
            </Primary>
          </Flex>
        ) : (
          <Text color="dim">Open a take with curves, or a shot, to hand it over.</Text>
        )}
      </Section>
      {mine.some((j) => j.state !== "done") && (
        <Section title="Jobs">
          {mine
            .filter((j) => j.state !== "done")
            .map((j) => (
              <Running key={j.id} job={j} />
            ))}
        </Section>
      )}
      <Section title="Handovers">
        {handovers.data?.map((h) => (
          <Made key={h.id} handover={h} />
        ))}
        {handovers.data?.length === 0 && <Text color="dim">Nothing has been handed over yet.</Text>}
      </Section>
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

function Made({ handover }: { handover: Handover }) {
  const report = handover.report as { ok: boolean; frames: number; seconds: number; rate: string; checks: Checked[] };
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
      {report.checks.map((c) => (
        <Flex key={c.what} gap="1.5" fontSize="sm" align="flex-start" title={c.found}>
          {c.ok === null ? (
            <Minus size={13} />
          ) : c.ok ? (
            <Check size={13} />
          ) : (
            <TriangleAlert size={13} color="var(--chakra-colors-accent)" />
          )}
          <Text>
            {c.what}:{" "}
            <Text as="span" color="dim">
              {c.found}
            </Text>
          </Text>
        </Flex>
      ))}
      <Flex gap="1" mt="1.5" wrap="wrap">
        {handover.files.map((f, i) => (
          <a key={String(f.name)} href={`/api/handovers/${handover.id}/files/${i}`} download={String(f.name)}>
            <Plain size="2xs">
              <Download size={12} />
              {String(f.name)}{" "}
              <Text as="span" color="dim">
                {(Number(f.size) / 1e6).toFixed(1)} MB
              </Text>
            </Plain>
          </a>
        ))}
      </Flex>
    </Box>
  );
}
