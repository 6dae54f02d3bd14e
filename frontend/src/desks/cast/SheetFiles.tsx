// The cast sheet as a file: exported, compared, imported; or the matches of another performer's.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, type FileIn } from "../../api/client";
import { notify } from "../../shared/notices";
import { Plain, Primary, Section } from "../../drawer/parts";
import { PickFile } from "../../drawer/PickFile";
import { reload, useOpen } from "../../workspace/workspace";

type Differences = Awaited<ReturnType<typeof api.compareSheet>>;

export function SheetFiles() {
  const { production = "" } = useParams();
  const { opened } = useOpen("opened");
  const [found, setFound] = useState<{ file: FileIn; list: Differences } | null>(null);
  const take = opened!.take;
  const performers = [
    ...new Set(
      (useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data ?? []).map(
        (t) => t.performer,
      ),
    ),
  ].filter((p) => p && p !== take.body.performer);
  const name = `${take.body.performer} on ${opened!.character?.body.name ?? ""}`;

  const kept = async (work: Promise<unknown>) => {
    await work.catch(notify as never);
    await reload();
  };
  const save = async () => {
    const blob = await api.sheet(take.id);
    const link = document.createElement("a");
    link.href = URL.createObjectURL(blob);
    link.download = `${name.toLowerCase().replace(/[^a-z0-9]+/g, "_")}_sheet.json`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const look = async (chosen: File) => {
    try {
      const { media } = await api.upload(production, chosen);
      const file = { media, name: chosen.name };
      setFound({ file, list: await api.compareSheet(take.id, file) });
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <Section
      title="Cast sheet"
      aside={
        <Text fontSize="sm" color="dim">
          {name}
        </Text>
      }
    >
      <Flex gap="1.5" wrap="wrap" align="center">
        <Plain size="2xs" onClick={() => void save()}>
          Export
        </Plain>
        <PickFile
          word="Compare or import"
          hint="Shows where a sheet differs before it is used"
          accept=".json"
          test="sheet-picker"
          onPick={(file) => void look(file)}
        />
        {performers.length > 0 && (
          <NativeSelect.Root size="xs" w="150px">
            <NativeSelect.Field
              aria-label="Take over from"
              value=""
              onChange={(e) => void kept(api.copySheet(take.id, e.target.value))}
            >
              <option value="" disabled>
                matches of…
              </option>
              {performers.map((p) => (
                <option key={p} value={p}>
                  {p}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        )}
      </Flex>
      {found && (
        <Box mt="2" data-testid="sheet-differences">
          <Text fontSize="sm" color="dim">
            {found.list.length
              ? `${found.file.name} differs in ${found.list.length} places: here, then there.`
              : `${found.file.name} says the same.`}
          </Text>
          <Box maxH="150px" overflowY="auto">
            {found.list.map((d) => (
              <Flex key={d.field + d.name} justify="space-between" gap="2" fontSize="sm" py="0.5">
                <Text minW="0" truncate title={d.field}>
                  {d.name || d.field}
                </Text>
                <Text whiteSpace="nowrap" fontFamily="number" maxW="60%" truncate title={`${d.ours} → ${d.theirs}`}>
                  {said(d.ours)} → {said(d.theirs)}
                </Text>
              </Flex>
            ))}
          </Box>
          <Flex gap="2" mt="2">
            {found.list.length > 0 && (
              <Primary
                onClick={() => {
                  const file = found.file;
                  setFound(null);
                  void kept(api.putSheet(take.id, file));
                }}
              >
                Use that sheet
              </Primary>
            )}
            <Plain onClick={() => setFound(null)}>Close</Plain>
          </Flex>
        </Box>
      )}
    </Section>
  );
}

const said = (json: string) => (json === "null" ? "nothing" : json.replace(/["{}]/g, "") || "nothing");
