// Line up: which recordings there are of a moment, where each begins, and what is made of it.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas } from "../../api/client";
import { FitPicture } from "../../drawer/FitPicture";
import { AmountField, Fact, Plain, Primary, Section, TextField, Toggle } from "../../drawer/parts";
import { useArrival } from "../../shared/arrival";
import { notify } from "../../shared/notices";
import { useDeskJobs } from "../../workspace/useDeskJobs";
import { reload } from "../../workspace/workspace";
import {
  chooseRecordings,
  openLineUp,
  showLineUp,
  useLineUp,
  useLineUpDocument,
  useLineUpEdits,
  useLineUpHistory,
} from "./lineUp";
import {
  beginning,
  fitPicture,
  grouped,
  how,
  isGroup,
  moving,
  remainder,
  WAYS,
  type LineUp,
  type Recording,
} from "./lineUpModel";
import { LineUpTakes } from "./LineUpTakes";

export function LineUpPanel() {
  const { production = "" } = useParams();
  const listed = useQuery({ queryKey: ["lineups", production], queryFn: () => api.lineups(production) }).data;
  const id = useLineUp((s) => s.id);
  const open = useLineUpDocument();
  useLineUpHistory();
  useEffect(() => {
    showLineUp(true);
    return () => showLineUp(false);
  }, []);
  useEffect(() => {
    if (listed && !listed.some((n) => n.id === id)) openLineUp(listed[0]?.id ?? "");
  }, [listed, id]);
  return (
    <Box data-testid="line-up">
      <Section title="Recordings of a moment">
        {listed && listed.length > 0 && (
          <NativeSelect.Root size="xs" mb="1">
            <NativeSelect.Field aria-label="Line-up" value={id} onChange={(e) => openLineUp(e.target.value)}>
              {listed.map((n) => (
                <option key={n.id} value={n.id}>
                  {n.name} ({n.sources})
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        )}
        <LineUpTakes production={production} open={open} first={listed?.length === 0} />
      </Section>
      {open && <Place open={open} />}
      {open && <Chosen open={open} />}
      {open && <Use open={open} production={production} />}
    </Box>
  );
}

function Place({ open }: { open: LineUp }) {
  const chosen = useLineUp((s) => s.chosen);
  const { run } = useLineUpEdits();
  const client = useQueryClient();
  const [by, setBy] = useState<Schemas["Compared"]["by"]>("auto");
  const { running, mine } = useDeskJobs(["line-up", "drift"], ["lineup"]);
  const { id, version } = open.lineup;
  const compare = () =>
    api.compareLineup(id, by, chosen).then(
      () => client.invalidateQueries({ queryKey: ["jobs"] }),
      (error: unknown) => notify(error as never),
    );
  const failed = mine[0]?.state === "failed" ? mine[0].message : "";
  const missing = open.rows.filter((r) => r.start === null).length;
  return (
    <Section
      title="Line up"
      aside={
        <Text fontSize="sm" color="dim">
          {chosen.length ? `${chosen.length} chosen` : `all ${open.rows.length}`}
        </Text>
      }
    >
      <Flex gap="1.5" align="center" mb="1.5">
        <Primary onClick={() => void run(() => api.lineupByTimecode(id, version, chosen))}>By timecode</Primary>
        <Text fontSize="sm" color="dim">
          counts of recordings, starts on notes sheets
        </Text>
      </Flex>
      <Flex gap="1.5" align="center">
        <Plain disabled={running} onClick={() => void compare()}>
          {running ? "Comparing …" : "Compare, by"}
        </Plain>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field aria-label="Compare by" value={by} onChange={(e) => setBy(e.target.value as typeof by)}>
            {WAYS.map((w) => (
              <option key={w.value} value={w.value}>
                {w.label}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      {failed && (
        <Text fontSize="sm" color="accent" mt="1">
          {failed}
        </Text>
      )}
      <Text fontSize="sm" color="dim" mt="1.5">
        {missing === 0
          ? "Every recording has its place."
          : `${missing} of ${open.rows.length} recordings have no place yet: compare them, or drag them.`}
      </Text>
    </Section>
  );
}

function Chosen({ open }: { open: LineUp }) {
  const { chosen, whole } = useLineUp();
  const { move: moveAll, run } = useLineUpEdits();
  const rows = open.rows.filter((r) => chosen.includes(r.key));
  if (!rows.length)
    return (
      <Section title="A recording">
        <Text color="dim">Press a bar to see where it begins. Drag it, or use the arrow keys on it, to move it.</Text>
      </Section>
    );
  const together = moving(open.rows, chosen, whole).length;
  const keep = (group: string) => {
    const keys = open.rows.filter(
      (r) => chosen.includes(r.key) || (!group && r.group && rows.some((c) => c.group === r.group)),
    );
    const changes = grouped(
      keys.map((r) => r.key),
      group,
    );
    return run(() => api.edit(open.lineup.id, open.lineup.version, group ? "keep together" : "let apart", changes));
  };
  const move = (frames: number) => void moveAll("nudge", open, moving(open.rows, chosen, whole), frames);
  return (
    <Section
      title={rows.length === 1 ? `${rows[0]!.slate}, ${rows[0]!.part}` : `${rows.length} recordings`}
      aside={
        <Plain size="2xs" onClick={() => chooseRecordings([])}>
          Let go
        </Plain>
      }
    >
      {rows.length === 1 && <Facts row={rows[0]!} rows={open.rows} />}
      <Toggle
        label="The whole take moves"
        hint="All recordings of a take move with one of them"
        on={whole}
        onChange={(on) => useLineUp.setState({ whole: on })}
      />
      <Flex gap="1.5" align="center" my="0.5">
        {rows.length > 1 && !isGroup(rows) && (
          <Plain
            size="2xs"
            title="They move together from now on"
            onClick={() => void keep(crypto.randomUUID().slice(0, 8))}
          >
            Keep together
          </Plain>
        )}
        {rows.some((r) => r.group) && (
          <Plain size="2xs" onClick={() => void keep("")}>
            Let apart
          </Plain>
        )}
        {together > rows.length && (
          <Text fontSize="sm" color="dim">
            {together} move together
          </Text>
        )}
      </Flex>
      <Flex gap="1" my="1">
        {[-10, -1, -0.25, 0.25, 1, 10].map((frames) => (
          <Plain
            key={frames}
            size="2xs"
            flex="1"
            px="1"
            title={`${frames} frames of the count`}
            onClick={() => move(frames)}
          >
            {frames > 0 ? `+${frames}` : frames}
          </Plain>
        ))}
      </Flex>
      <AmountField
        label="Move by"
        unit="frames"
        value={0}
        rest={0}
        low={-120}
        high={120}
        step={0.25}
        onDrag={() => undefined}
        onCommit={move}
      />
    </Section>
  );
}

function Facts({ row, rows }: { row: Recording; rows: Recording[] }) {
  const named = (keys: string[]) =>
    keys
      .map((k) => rows.find((r) => r.key === k))
      .map((r) => r && `${r.slate} ${r.part}`)
      .join(", ");
  const fit = fitPicture(row, rows);
  return (
    <Box mb="1">
      <Fact name="Files">{row.names.join(", ")}</Fact>
      <Fact name="Own count">
        {row.timecode
          ? `${row.timecode}${remainder(row.remainder)} at ${row.timecodeRate}${row.noted ? ", noted" : ""}`
          : "none"}
      </Fact>
      <Fact name="Length">
        {row.seconds.toFixed(2)} s{row.rate ? ` at ${row.rate}` : ""}
      </Fact>
      <Fact name="Begins">{beginning(row)}</Fact>
      {row.start !== null && <Fact name="Found">{how(row)}</Fact>}
      {fit && (
        <Box my="1" data-testid="line-up-fit">
          <FitPicture found={fit.found} now={fit.now} label={`Fit against ${fit.other.slate} ${fit.other.part}`} />
          <Text fontSize="sm" color="dim">
            How well it lies on {fit.other.slate}, {fit.other.part}, up to 3 s to either side
          </Text>
        </Box>
      )}
      {row.apart.length > 0 && <Fact name="No overlap with">{named(row.apart)}</Fact>}
    </Box>
  );
}

function Use({ open, production }: { open: LineUp; production: string }) {
  const arrival = useArrival();
  const client = useQueryClient();
  const [said, setSaid] = useState<Schemas["LineUpUsed"] | null>(null);
  const [name, setName] = useState("");
  const put = async () => {
    try {
      setSaid(await api.useLineup(open.lineup.id));
      await client.invalidateQueries({ queryKey: ["join"] });
      await reload();
    } catch (error) {
      notify(error as never);
    }
  };
  const shoot = async () => {
    const arrive = arrival();
    try {
      const made = await api.shotOfLineup(open.lineup.id, name.trim() || open.lineup.body.name);
      arrive(`/${production}/layer/${made.id}`);
      await client.invalidateQueries({ queryKey: ["shots"] });
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <Section title="Use it">
      <Plain onClick={() => void put()}>Put bodies and sounds in their place</Plain>
      {said && (
        <Box fontSize="sm" mt="1" data-testid="line-up-used">
          {said.changed.map((line) => (
            <Text key={line}>{line}</Text>
          ))}
          {said.left.map((line) => (
            <Text key={line} color="dim">
              {line}
            </Text>
          ))}
          {!said.changed.length && !said.left.length && <Text color="dim">Nothing is placed against a face yet.</Text>}
        </Box>
      )}
      <Box mt="2">
        <TextField label="Shot's name" value={name} placeholder={open.lineup.body.name} onCommit={setName} />
        <Plain mt="1" onClick={() => void shoot()}>
          Begin a shot of it
        </Plain>
      </Box>
      <OntoShot open={open} production={production} />
    </Section>
  );
}

/** Clips of a shot that there is are moved to where they were played. */
function OntoShot({ open, production }: { open: LineUp; production: string }) {
  const shots = useQuery({ queryKey: ["shots", production], queryFn: () => api.shots(production) }).data ?? [];
  const client = useQueryClient();
  const arrival = useArrival();
  const [chosen, setChosen] = useState("");
  const shot = shots.find((s) => s.id === chosen) ?? shots[0];
  if (!shot) return null;
  const lay = async () => {
    const arrive = arrival();
    try {
      await api.layOnShot(open.lineup.id, shot.id, shot.version);
      await client.invalidateQueries({ queryKey: ["shots"] });
      arrive(`/${production}/layer/${shot.id}`);
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <Flex mt="2" gap="1.5" align="center">
      <NativeSelect.Root size="xs" flex="1">
        <NativeSelect.Field aria-label="Shot" value={shot.id} onChange={(e) => setChosen(e.target.value)}>
          {shots.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Plain
        title="Its clips lie where their takes were played; one step, to be undone there"
        onClick={() => void lay()}
      >
        Move its clips
      </Plain>
    </Flex>
  );
}
