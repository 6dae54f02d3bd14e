// Which character the take is on: brought in, swapped, renewed; its health; and its sheet as a file.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useParams } from "react-router";
import { api, type SwapForeseen } from "../../api/client";
import { notify } from "../../shared/notices";
import { Fact, Plain, Primary, Section } from "../../drawer/parts";
import { change, reload, useOpen } from "../../workspace/workspace";
import { Health } from "./Health";
import { SheetFiles } from "./SheetFiles";

const SHEETS: Record<string, string> = {
  own: "The performer has a sheet for it already; it is used.",
  carried: "The present sheet is carried over:",
  new: "A new sheet is begun, matched by itself.",
};
const FILES = ".glb,.gltf,.zip,.vrm";

export function RigPanel() {
  const { production = "" } = useParams();
  const { opened } = useOpen("opened");
  const client = useQueryClient();
  const characters = useQuery({ queryKey: ["characters", production], queryFn: () => api.characters(production) });
  const [wanted, setWanted] = useState<{ id: string; name: string; seen: SwapForeseen } | null>(null);
  const [busy, setBusy] = useState("");
  const [findings, setFindings] = useState<string[]>([]);
  const picker = useRef<HTMLInputElement>(null);
  const newer = useRef<HTMLInputElement>(null);
  const mine = opened!.character;

  const guarded = async (what: string, work: () => Promise<void>) => {
    setBusy(what);
    try {
      await work();
    } catch (error) {
      notify(error as never);
    } finally {
      setBusy("");
    }
  };
  const swap = (id: string) => change((take) => api.swap(take.id, id)).then(reload);
  const foresee = (id: string, name: string) =>
    guarded("Looking at it…", async () => setWanted({ id, name, seen: await api.foresee(opened!.take.id, id) }));
  const bring = (file: File) =>
    guarded("Looking it over…", async () => {
      const { media } = await api.upload(production, file);
      const stem = file.name.replace(/\.[^.]+$/, "");
      const made = await api.newCharacter(production, stem.charAt(0).toUpperCase() + stem.slice(1), {
        media,
        name: file.name,
      });
      await characters.refetch();
      await swap(made.id);
    });
  const renew = (file: File) =>
    guarded("Comparing…", async () => {
      const { media } = await api.upload(production, file);
      const { change: c, words } = await api.renew(mine!.id, { media, name: file.name });
      const list = (word: string, names: string[]) =>
        names.length
          ? [`${names.length} ${word}: ${names.slice(0, 12).join(", ")}${names.length > 12 ? " …" : ""}`]
          : [];
      const found = [
        ...list("added", c.added),
        ...list("gone", c.gone),
        ...list(
          "renamed",
          Object.entries(c.renamed).map(([a, b]) => `${a} is ${b} now`),
        ),
        ...list("move otherwise", c.moved),
        ...list("joints added", c.jointsAdded),
        ...list("joints gone", c.jointsGone),
        ...words,
      ];
      setFindings(found.length ? found : ["Nothing that the sheet speaks of is different."]);
      await client.invalidateQueries({ queryKey: ["characters"] });
      await reload();
    });
  const pick = (input: React.ChangeEvent<HTMLInputElement>, work: (file: File) => Promise<void>) => {
    const file = input.target.files?.[0];
    input.target.value = "";
    if (file) void work(file);
  };
  const versions = mine?.body.versions ?? [];
  const back = (source: string) =>
    guarded("Going back…", async () => {
      const kept = [
        ...versions.filter((v) => v.source !== source),
        { source: mine!.body.source, file: "the newer version" },
      ];
      await api.edit(mine!.id, mine!.version, `back to an older version of ${mine!.body.name}`, [
        { path: "source", value: source },
        { path: "versions", value: kept },
      ]);
      await reload();
    });

  return (
    <>
      <Section
        title="Character"
        aside={
          <>
            <Plain size="2xs" onClick={() => picker.current?.click()}>
              Bring one in
            </Plain>
            <input
              ref={picker}
              type="file"
              hidden
              accept={FILES}
              data-testid="character-picker"
              onChange={(e) => pick(e, bring)}
            />
          </>
        }
      >
        {characters.data?.length ? (
          <NativeSelect.Root size="xs">
            <NativeSelect.Field
              aria-label="Character"
              value={mine?.id ?? ""}
              onChange={(e) => {
                if (e.target.value !== mine?.id) void foresee(e.target.value, e.target.selectedOptions[0]?.text ?? "");
              }}
            >
              {!mine && <option value="">none chosen</option>}
              {characters.data.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.name}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        ) : (
          <Text color="dim">
            No character yet. Bring one in as glTF (.glb, or .gltf with its files in a .zip) with shapes or joints.
          </Text>
        )}
        {busy && (
          <Text fontSize="sm" color="dim" mt="1">
            {busy}
          </Text>
        )}
        {wanted && (
          <Box mt="2" p="2" borderWidth="1px" borderColor="line" borderRadius="sm" bg="bg.raised" data-testid="swap">
            <Text fontWeight="600" mb="1">
              This take on {wanted.name}
            </Text>
            <Fact name="driven">
              {wanted.seen.matched} targets{wanted.seen.drives ? `, ${wanted.seen.drives} joint drives` : ""}
            </Fact>
            <Fact name="build">{wanted.seen.sameBuild ? "the same as now" : "another"}</Fact>
            <Text fontSize="sm" color="dim" mt="1">
              {SHEETS[wanted.seen.sheet]}
            </Text>
            <Box maxH="110px" overflowY="auto">
              {wanted.seen.words.map((w) => (
                <Text key={w} fontSize="sm" py="0.5">
                  {w}
                </Text>
              ))}
            </Box>
            <Flex gap="2" mt="2">
              <Primary
                onClick={() => {
                  setWanted(null);
                  setFindings([]);
                  void swap(wanted.id);
                }}
              >
                Swap the character
              </Primary>
              <Plain onClick={() => setWanted(null)}>Stay</Plain>
            </Flex>
          </Box>
        )}
        {mine && (
          <Flex mt="2" gap="1.5" align="center" wrap="wrap">
            <Plain
              size="2xs"
              title="The rigger's newer file: sheets and all work carry over, the old file is kept"
              onClick={() => newer.current?.click()}
            >
              Newer version
            </Plain>
            <input
              ref={newer}
              type="file"
              hidden
              accept={FILES}
              data-testid="version-picker"
              onChange={(e) => pick(e, renew)}
            />
            {versions.map((v) => (
              <Plain key={v.source} size="2xs" title="Use this version again" onClick={() => void back(v.source)}>
                back to {v.file}
              </Plain>
            ))}
          </Flex>
        )}
        {findings.map((t) => (
          <Text key={t} fontSize="sm" mt="1">
            {t}
          </Text>
        ))}
      </Section>
      {mine && <Health character={mine.id} source={mine.body.source} />}
      {opened!.cast && <SheetFiles />}
    </>
  );
}
