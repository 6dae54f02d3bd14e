// The match that is kept of these two skeletons: named, kept, let go, copied to another production, and as a file.
import { Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api } from "../../api/client";
import { Plain, Primary, Section } from "../../drawer/parts";
import { PickFile } from "../../drawer/PickFile";
import type { Report } from "../../match/matchModel";
import { notify } from "../../shared/notices";
import { reload, useOpen } from "../../workspace/workspace";

export function KeptMatch({ report }: { report: Report }) {
  const { production = "" } = useParams();
  const { opened } = useOpen("opened");
  const client = useQueryClient();
  const { kept, part, said: own } = report;
  const take = opened!.take;
  const usual =
    kept?.name ?? `${opened!.sources[part]!.name.replace(/\.\w+$/, "")} on ${String(opened!.character!.body.name)}`;
  const [typed, setTyped] = useState<string | null>(null);
  const name = typed ?? usual;
  const others = (useQuery({ queryKey: ["productions"], queryFn: api.productions, enabled: !!kept }).data ?? []).filter(
    (p) => p.id !== production,
  );

  const run = async (make: () => Promise<unknown>) => {
    try {
      await make();
    } catch (error) {
      notify(error as never);
    }
    setTyped(null);
    await reload();
    await client.invalidateQueries({ queryKey: ["match"] });
  };
  const save = () =>
    run(async () => {
      const link = document.createElement("a");
      link.href = URL.createObjectURL(await api.matchFile(take.id, part));
      link.download = `${name.toLowerCase().replace(/[^a-z0-9]+/g, "_")}_match.json`;
      link.click();
      URL.revokeObjectURL(link.href);
    });
  const bring = (file: File) =>
    run(async () => {
      const { media } = await api.upload(production, file);
      await api.putMatch(take.id, part, { media, name: file.name });
    });
  return (
    <Section title="Match">
      <Text fontSize="sm" color="dim" mb="1" data-testid="kept-match">
        {kept
          ? own
            ? `${kept.name} is used; ${own} things are said in this take alone.`
            : `${kept.name} is used wherever these two skeletons meet.`
          : part === "body"
            ? "Keep it, and every take with these two skeletons finds it again."
            : "Keep it, and every take with these gloves on this character finds it again."}
      </Text>
      <Flex gap="1.5" align="center">
        <Input
          size="xs"
          flex="1"
          aria-label="Name of the match"
          maxLength={80}
          value={name}
          onChange={(e) => setTyped(e.target.value)}
        />
        <Primary
          size="2xs"
          disabled={!name.trim() || (!!kept && !own && name === kept.name)}
          onClick={() => void run(() => api.keepMatch(take.id, part, name))}
        >
          Keep
        </Primary>
      </Flex>
      <Flex gap="1.5" wrap="wrap" align="center" mt="1.5">
        <Plain size="2xs" onClick={() => void save()}>
          Export
        </Plain>
        <PickFile word="Import" accept=".json" test="match-picker" onPick={(file) => void bring(file)} />
        {kept && (
          <Plain
            size="2xs"
            title="Takes go back to what is proposed"
            onClick={() =>
              void run(() => api.edit(kept.id, kept.version, "let the match go", [{ path: "archived", value: true }]))
            }
          >
            Let it go
          </Plain>
        )}
        {kept && others.length > 0 && (
          <NativeSelect.Root size="xs" w="140px">
            <NativeSelect.Field
              aria-label="Copy the match to"
              value=""
              onChange={(e) => void run(() => api.copyMatch(kept.id, e.target.value))}
            >
              <option value="" disabled>
                copy to…
              </option>
              {others.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        )}
      </Flex>
    </Section>
  );
}
