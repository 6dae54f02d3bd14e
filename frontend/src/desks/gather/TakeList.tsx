// The takes of a production: search, sort, choose several, circle, archive.
import { Box, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, type Change } from "../../api/client";
import { notify } from "../../shared/notices";
import { useFileDrop } from "../../shared/useFileDrop";
import { Plain, Primary } from "../../drawer/parts";
import { reload, useSession } from "../../workspace/workspace";
import { setFeeding, setRecording, useGathering } from "./gathering";
import { bringIn } from "./imports";
import { arranged, type Order } from "./arrange";
import { TakeGrid } from "./TakeGrid";

export function TakeList({ production, take }: { production: string; take?: string }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const takes = useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) });
  const [text, setText] = useState("");
  const [order, setOrder] = useState<Order>("added");
  const [archived, setArchived] = useState(false);
  const [chosen, setChosen] = useState<string[]>([]);
  const { over, drop } = useFileDrop((files) => void bringIn(production, files));
  const picker = useRef<HTMLInputElement>(null);
  const opened = useSession((s) => s.opened);
  const { recording, feeding } = useGathering();
  const solveCircled = async () => {
    const clips = (takes.data ?? []).filter((r) => r.circled && !r.archived && r.holds.includes("footage"));
    const cards = await api.cards(production).catch(() => []);
    for (const row of clips) {
      const card = cards.filter((c) => c.ready && c.performer === row.performer).pop();
      await api
        .solve(row.id, { card: card?.id ?? null, first: 0, last: null, moves: "head", neutral: null })
        .catch((error) => notify(error as never));
    }
    await client.invalidateQueries({ queryKey: ["jobs"] });
    notify({
      kind: "info",
      message: clips.length ? `${clips.length} circled clips are queued to be solved` : "No circled take has a clip",
    });
  };
  const rows = useMemo(() => arranged(takes.data ?? [], text, order, archived), [takes.data, text, order, archived]);

  const change = async (ids: string[], label: string, changes: Change[]) => {
    for (const id of ids) {
      const row = takes.data?.find((t) => t.id === id);
      if (!row) continue;
      try {
        await api.edit(id, row.version, label, changes);
      } catch (error) {
        notify(error as never);
      }
    }
    await client.invalidateQueries({ queryKey: ["takes"] });
    await client.invalidateQueries({ queryKey: ["history"] });
    if (opened && ids.includes(opened.take.id)) await reload();
  };
  const targets = chosen.length ? chosen : take ? [take] : [];
  const all = rows.filter((r) => targets.includes(r.id));

  return (
    <Flex
      direction="column"
      w="45%"
      minW="470px"
      maxW="760px"
      bg="bg.panel"
      borderRightWidth="1px"
      borderColor="line"
      data-testid="take-list"
      {...drop}
      outline={over ? "2px dashed" : undefined}
      outlineColor="accent"
      outlineOffset="-6px"
    >
      <Flex p="2" gap="2" align="center" borderBottomWidth="1px" borderColor="line">
        <Primary onClick={() => picker.current?.click()}>Bring in files</Primary>
        <Plain aria-pressed={recording} onClick={() => setRecording(!recording)}>
          Record
        </Plain>
        <Plain
          aria-pressed={feeding}
          title="Hear a phone or another program over the network"
          onClick={() => setFeeding(!feeding)}
        >
          Feed
        </Plain>
        <input
          ref={picker}
          type="file"
          multiple
          hidden
          data-testid="file-picker"
          accept=".csv,.tsv,.txt,.jsonl,.ndjson,.wav,.bvh,.c3d,.glb,.gltf,.vrm,.mp4,.mov,.m4v,.webm,.mkv,.avi,.zip"
          onChange={(e) => {
            void bringIn(production, [...(e.target.files ?? [])]);
            e.target.value = "";
          }}
        />
        <Input
          size="xs"
          flex="1"
          placeholder="Search slate, performer, notes"
          aria-label="Search takes"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <NativeSelect.Root size="xs" w="116px">
          <NativeSelect.Field aria-label="Sort by" value={order} onChange={(e) => setOrder(e.target.value as Order)}>
            <option value="added">as added</option>
            <option value="slate">by slate</option>
            <option value="performer">by performer</option>
            <option value="length">by length</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      <Box flex="1" overflowY="auto">
        <TakeGrid
          rows={rows}
          open={take}
          chosen={chosen}
          onChoose={setChosen}
          onOpen={(row) => {
            setChosen([]);
            void navigate(`/${production}/gather/${row.id}`);
          }}
          onCircle={(row) =>
            void change([row.id], row.circled ? "take the circle off" : "circle the take", [
              { path: "circled", value: !row.circled },
            ])
          }
        />
        {takes.data && !rows.length && (
          <Box p="6" textAlign="center" color="dim" lineHeight="1.7">
            {takes.data.length ? (
              <Text>No take fits.{takes.data.some((t) => t.archived) && !archived ? " Some are archived." : ""}</Text>
            ) : (
              <>
                <Text color="ink" fontSize="lg" mb="1">
                  Nothing gathered yet
                </Text>
                <Text>Drop clips (.mp4) or face curve tables (.csv), sound (.wav) and body takes (.bvh) here,</Text>
                <Text>or use “Bring in files”. A character (.glb) can come along.</Text>
              </>
            )}
          </Box>
        )}
      </Box>
      <Flex p="2" gap="2" align="center" borderTopWidth="1px" borderColor="line">
        <Text color="dim" flex="1">
          {chosen.length ? `${chosen.length} chosen` : `${rows.length} takes`}
        </Text>
        {takes.data?.some((r) => r.circled && r.holds.includes("footage")) && (
          <Plain onClick={() => void solveCircled()}>Solve circled</Plain>
        )}
        <Plain
          disabled={!all.length}
          onClick={() => void change(targets, "circle", [{ path: "circled", value: !all.every((r) => r.circled) }])}
        >
          Circle
        </Plain>
        <Plain
          disabled={!all.length}
          onClick={() => {
            void change(targets, archived ? "restore" : "archive", [{ path: "archived", value: !archived }]);
            setChosen([]);
          }}
        >
          {archived ? "Restore" : "Archive"}
        </Plain>
        <Plain
          aria-pressed={archived}
          onClick={() => {
            setArchived(!archived);
            setChosen([]);
          }}
        >
          {archived ? "Back to takes" : "Archived"}
        </Plain>
      </Flex>
    </Flex>
  );
}
