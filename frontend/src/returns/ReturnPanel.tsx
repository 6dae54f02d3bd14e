// Bringing back: files that were handed over and edited elsewhere become layers of what is different.
import { Box, Progress, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Undo2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { uploadFile } from "../api/upload";
import { ChoiceField } from "../drawer/ChoiceField";
import { Primary, Section } from "../drawer/parts";
import { RunningJob } from "../drawer/RunningJob";
import { notify } from "../shared/notices";
import { useFileDrop } from "../shared/useFileDrop";
import { reload, useOpen } from "../workspace/workspace";
import { ReturnedFile } from "./ReturnedFile";
import { ENDINGS, rowsOf } from "./returnModel";

const SHOWN = 6; // jobs
const AS = { rig: "a touch-up of the character", face: "a change of the face where it can" } as const;

export function ReturnPanel({ production, onOpen }: { production: string; onOpen: () => void }) {
  const client = useQueryClient();
  const { opened, shot } = useOpen("opened", "shot");
  const onto = shot?.opened.shot.id ?? opened?.take.id ?? "";
  const name = shot?.opened.shot.body.name ?? opened?.take.body.slate ?? "";
  const picker = useRef<HTMLInputElement>(null);
  const [as, setAs] = useState<keyof typeof AS>("rig");
  const [share, setShare] = useState<number | null>(null);
  const jobs = useQuery({ queryKey: ["jobs", production], queryFn: () => api.jobs(production) }).data ?? [];
  const mine = jobs.filter((j) => j.kind === "return").slice(0, SHOWN);
  const done = mine.filter((j) => j.state === "done").length;
  const seen = useRef(done);
  useEffect(() => {
    if (seen.current === done) return;
    seen.current = done;
    for (const key of ["shots", "takes", "reel"]) void client.invalidateQueries({ queryKey: [key] });
    void reload();
  }, [done, client]);

  const bring = async (files: File[]) => {
    if (!files.length) return;
    try {
      const given = [];
      for (const [n, file] of files.entries()) {
        setShare(n / files.length);
        const media = await uploadFile(production, file, (s) => setShare((n + s) / files.length));
        given.push({ media, name: file.name });
      }
      await api.bringBack(production, given, onto, as === "face");
      await client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      notify(error as never);
    } finally {
      setShare(null);
    }
  };
  const { over, drop } = useFileDrop((files) => void bring([...files]));
  return (
    <div data-testid="return-panel">
      <Section title="Bring back">
        <Text fontSize="sm" color="dim" mb="2">
          A file that was handed over and edited elsewhere becomes a layer that holds what is different. The rest stays
          live.
        </Text>
        <ChoiceField
          word="Becomes"
          label="What a character that comes back becomes"
          value={as}
          choices={AS}
          onChoose={(a) => setAs(a as keyof typeof AS)}
        />
        <Box
          mt="2"
          borderWidth="1px"
          borderStyle="dashed"
          borderColor={over ? "accent" : "line"}
          borderRadius="sm"
          p="3"
          textAlign="center"
          {...drop}
        >
          <Primary disabled={share !== null} onClick={() => picker.current!.click()}>
            <Undo2 size={14} />
            Choose files
          </Primary>
          <Text fontSize="sm" color="dim" mt="1.5">
            or drop them here: .glb, .usdc, .usda, .bvh, .csv
          </Text>
          <input
            ref={picker}
            type="file"
            hidden
            multiple
            accept={ENDINGS}
            data-testid="return-picker"
            onChange={(e) => {
              void bring([...(e.target.files ?? [])]);
              e.target.value = "";
            }}
          />
          {share !== null && (
            <Progress.Root value={share * 100} size="xs" mt="2">
              <Progress.Track bg="bg.pressed">
                <Progress.Range bg="accent" />
              </Progress.Track>
            </Progress.Root>
          )}
        </Box>
        <Text fontSize="sm" color="dim" mt="1.5">
          {name
            ? `Known by their names; what is called otherwise is compared with ${name}.`
            : "Known by their names. Open the take or shot of files that are called otherwise."}
        </Text>
      </Section>
      {mine.map((job) =>
        job.state === "done" ? (
          <Section key={job.id} title={job.label}>
            {rowsOf(job).map((row, n) => (
              <ReturnedFile key={n} row={row} production={production} onOpen={onOpen} />
            ))}
          </Section>
        ) : (
          <Box key={job.id} px="3" py="2.5">
            <RunningJob job={job} />
          </Box>
        ),
      )}
    </div>
  );
}
