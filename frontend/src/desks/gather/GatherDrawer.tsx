import { Box, Flex, Text, Textarea } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { Fact, Section, TextField, Toggle } from "../../drawer/parts";
import { FeedPanel } from "../../feed/FeedPanel";
import { edit, useSession } from "../../workspace/workspace";
import { FootageFacts, type FootageInfo } from "./FootageFacts";
import { setFeeding, setRecording, useGathering } from "./gathering";
import { ImportPanel } from "./ImportPanel";
import { useImports } from "./imports";
import { RecordPanel } from "./RecordPanel";
import { SyncSection } from "./SyncSection";
import { TableReport, type Report } from "./TableReport";

export function GatherDrawer() {
  const { production = "" } = useParams();
  const opened = useSession((s) => s.opened);
  const coming = useImports((s) => s.incoming.length);
  const { recording, feeding } = useGathering();
  return (
    <Box>
      {recording && <RecordPanel production={production} onClose={() => setRecording(false)} />}
      {feeding && <FeedPanel production={production} onClose={() => setFeeding(false)} />}
      {coming > 0 && <ImportPanel production={production} />}
      {recording || feeding ? null : opened ? (
        <TakeFacts />
      ) : (
        coming === 0 && (
          <Box p="4" color="dim" lineHeight="1.7">
            <Text color="ink">Bring in files to begin.</Text>
            <Text>
              You see what was found in each of them, and what was wrong with its frames, before anything is kept.
            </Text>
          </Box>
        )
      )}
    </Box>
  );
}

function TakeFacts() {
  const opened = useSession((s) => s.opened)!;
  const client = useQueryClient();
  const { take, sources } = opened;
  const keep = async (label: string, path: string, value: unknown) => {
    await edit("take", label, [{ path, value }]);
    await client.invalidateQueries({ queryKey: ["takes"] });
  };
  return (
    <>
      <Section
        title="Take"
        aside={
          <Toggle
            label="Circled"
            on={Boolean(take.body.circled)}
            onChange={(on) => void keep(on ? "circle the take" : "take the circle off", "circled", on)}
          />
        }
      >
        <TextField
          label="Slate"
          value={String(take.body.slate)}
          onCommit={(v) => void keep("rename the take", "slate", v)}
        />
        <TextField
          label="Performer"
          value={String(take.body.performer)}
          onCommit={(v) => void keep("name the performer", "performer", v)}
        />
        <Notes value={String(take.body.notes)} onCommit={(v) => void keep("note", "notes", v)} />
      </Section>
      <SyncSection />
      {sources.footage && (
        <Section title="Footage">
          <FootageFacts info={sources.footage.info as unknown as FootageInfo} />
        </Section>
      )}
      {sources.curves && !sources.curves.info.solve && (
        <Section title="What the device wrote">
          <TableReport report={sources.curves.info as unknown as Report} />
          <Repaired />
        </Section>
      )}
      <Section title="Sources">
        {["footage", "markers", "curves", "sound", "body", "hands"].map((kind) => (
          <Fact key={kind} name={kind[0]!.toUpperCase() + kind.slice(1)}>
            {sources[kind]?.name ?? (
              <Text as="span" color="dim">
                none
              </Text>
            )}
          </Fact>
        ))}
        <Flex mt="1">
          <Text fontSize="sm" color="dim">
            To add one, bring the file in and choose “Add to {String(take.body.slate)}”.
          </Text>
        </Flex>
      </Section>
    </>
  );
}

/** What evening out made of the device's frames. */
function Repaired() {
  const curves = useSession((s) => s.curves);
  if (!curves) return null;
  const width = curves.channels.length;
  let gaps = 0;
  for (let f = 0; f < curves.frames; f++) if (Number.isNaN(curves.raw.data[f * width]!)) gaps++;
  return (
    <Box mt="1.5" pt="1.5" borderTopWidth="1px" borderColor="line">
      <Fact name="Evened out to">
        {curves.frames} frames at {curves.rateText} fps
      </Fact>
      <Fact name="Left as gaps">{gaps} frames</Fact>
    </Box>
  );
}

function Notes({ value, onCommit }: { value: string; onCommit: (v: string) => void }) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  return (
    <Textarea
      size="xs"
      mt="1"
      rows={2}
      aria-label="Notes"
      placeholder="Notes"
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => {
        if (typed !== value) onCommit(typed);
      }}
    />
  );
}
