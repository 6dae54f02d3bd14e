// Beginning a line-up, or choosing the takes whose recordings are in it.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { Plain, Primary, TextField } from "../../drawer/parts";
import { TakePicker } from "../../drawer/TakePicker";
import { useOpen } from "../../workspace/workspace";
import { openLineUp, useLineUpEdits } from "./lineUp";
import type { LineUp } from "./lineUpModel";

/** first: there is no line-up yet. */
export function LineUpTakes({ production, open, first }: { production: string; open: LineUp | null; first: boolean }) {
  const { opened } = useOpen("opened");
  const client = useQueryClient();
  const { run } = useLineUpEdits();
  const [choosing, setChoosing] = useState<"new" | "change" | null>(null);
  const [name, setName] = useState("");
  const [takes, setTakes] = useState<string[]>([]);
  const all = (useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data ?? []).filter(
    (t) => !t.archived,
  );
  const begin = (what: "new" | "change") => {
    setChoosing(what);
    setTakes(what === "change" ? [...new Set(open?.rows.map((r) => r.take))] : opened ? [opened.take.id] : []);
  };
  const keep = async () => {
    if (choosing === "change" && open) await run(() => api.lineupTakes(open.lineup.id, open.lineup.version, takes));
    else
      await run(async () => {
        const made = await api.newLineup(production, name.trim() || "line-up", takes);
        await client.invalidateQueries({ queryKey: ["lineups"] });
        openLineUp(made.id);
      });
    await client.invalidateQueries({ queryKey: ["lineups"] });
    setChoosing(null);
  };
  if (!choosing)
    return (
      <>
        {first && (
          <Text color="dim" mb="2">
            Faces, bodies and sounds of one moment on one ruler. Begin with the takes that belong together.
          </Text>
        )}
        <Flex gap="1.5">
          <Plain size="2xs" onClick={() => begin("new")}>
            Begin a line-up
          </Plain>
          {open && (
            <Plain size="2xs" onClick={() => begin("change")}>
              Choose its takes
            </Plain>
          )}
        </Flex>
      </>
    );
  return (
    <Box>
      {choosing === "new" && <TextField label="Name" value={name} placeholder="line-up" onCommit={setName} />}
      <Flex gap="1.5" my="1">
        <Plain size="2xs" onClick={() => setTakes(all.map((t) => t.id))}>
          All
        </Plain>
        <Plain size="2xs" onClick={() => setTakes(all.filter((t) => t.circled).map((t) => t.id))}>
          Circled
        </Plain>
        <Plain size="2xs" onClick={() => setTakes([])}>
          None
        </Plain>
      </Flex>
      <TakePicker
        takes={all}
        chosen={takes}
        onChoose={setTakes}
        about={(t) => `${t.performer} · ${t.holds.join(", ")}`}
        height="180px"
      />
      <Flex gap="1.5" mt="1.5">
        <Primary disabled={!takes.length} onClick={() => void keep()}>
          {choosing === "new" ? `Begin with ${takes.length}` : `Line up ${takes.length}`}{" "}
          {takes.length === 1 ? "take" : "takes"}
        </Primary>
        <Plain onClick={() => setChoosing(null)}>Leave it</Plain>
      </Flex>
    </Box>
  );
}
