// From footage to curves: a performer card, the solve as a job, the solves so far, and how sure the chosen one is.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, type Job, type SolveRow } from "../../api/client";
import { notify } from "../../app/notices";
import { Fact, Plain, Primary, Section } from "../../drawer/parts";
import { edit, reload, useOpen } from "../../workspace/workspace";
import { CardMaker } from "./CardMaker";
import { Confidence } from "./Confidence";
import { JobRow } from "./JobRow";
import { cardFor, jobsOf } from "./footageJobs";

export function FootageSolve() {
  const { production = "" } = useParams();
  const { opened } = useOpen("opened");
  const client = useQueryClient();
  const take = opened!.take;
  const footage = opened!.sources.footage!;
  const chosen = opened!.sources.curves;
  const ready = !!footage.info.proxy;
  const listed = useQuery({ queryKey: ["jobs", production], queryFn: () => api.jobs(production) }).data;
  const jobs = listed ?? [];
  const cards = useQuery({ queryKey: ["cards", production], queryFn: () => api.cards(production) }).data ?? [];
  const solves = useQuery({ queryKey: ["solves", take.id], queryFn: () => api.solves(take.id) }).data ?? [];
  const [card, setCard] = useState<string | null>(null);
  const wanted = card ?? cardFor(cards, String(take.body.performer))?.id ?? "";
  const mine = jobsOf(jobs, ["footage", "card", "solve"]);
  const running = mine.filter((j) => j.state === "queued" || j.state === "running");

  // What a job made is shown as soon as it has ended, also when it ended before this desk was opened.
  const ended = listed && (mine.find((j) => j.state === "done")?.id ?? "");
  const before = useRef<string | null>(null);
  useEffect(() => {
    if (ended === undefined) return;
    if (before.current === null ? !ready && ended !== "" : ended !== before.current) {
      void reload();
      void client.invalidateQueries({ queryKey: ["cards"] });
      void client.invalidateQueries({ queryKey: ["solves"] });
      void client.invalidateQueries({ queryKey: ["takes"] });
    }
    before.current = ended;
  }, [ended, ready, client]);

  const ask = async (work: () => Promise<Job>) => {
    try {
      await work();
      await client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <>
      <Section title="Solve" aside={<Text fontSize="sm" color="dim">{footage.name}</Text>}>
        <Flex align="center" gap="2" py="0.5">
          <Text w="86px" flexShrink={0} fontSize="sm" color="dim">Card</Text>
          <NativeSelect.Root size="xs"><NativeSelect.Field aria-label="Performer card" value={wanted} onChange={(e) => setCard(e.target.value)}><option value="">none: the clip alone</option>{cards.filter((c) => c.ready).map((c) => <option key={c.id} value={c.id}>{c.name} ({c.sampled} samples)</option>)}</NativeSelect.Field><NativeSelect.Indicator /></NativeSelect.Root>
        </Flex>
        <Flex gap="2" mt="2" align="center">
          <Primary disabled={!ready || running.length > 0} onClick={() => void ask(() => api.solve(take.id, { card: wanted || null, first: 0, last: null }))}>Solve this clip</Primary>
          {!ready && !running.length && <Plain onClick={() => void ask(() => api.lookThrough(take.id))}>Look through the clip</Plain>}
        </Flex>
        {!wanted && ready && <Text mt="2" fontSize="sm" color="dim">Without a card the general face is used, with this clip's stillest second as neutral. A card from a range of motion finds far more.</Text>}
        {mine.filter((j) => j.state !== "done").slice(0, 3).map((j) => <JobRow key={j.id} job={j} onCancel={() => void ask(() => api.cancelJob(j.id))} />)}
      </Section>
      {solves.length > 0 && <Section title="Solves" aside={<Text fontSize="sm" color="dim">click one to choose it</Text>}>{solves.map((s) => <Made key={s.source} solve={s} chosen={s.source === chosen?.id} />)}</Section>}
      {!!chosen?.info.solve && <Confidence source={chosen.id} />}
      {ready && <CardMaker take={take.id} performer={String(take.body.performer)} busy={running.length > 0} onMake={(given) => ask(() => api.newCard(take.id, given))} />}
    </>
  );
}

function Made({ solve, chosen }: { solve: SolveRow; chosen: boolean }) {
  return (
    <Flex as="button" w="100%" direction="column" align="stretch" textAlign="left" px="2" py="1.5" mb="1" cursor="pointer" borderWidth="1px" borderRadius="sm" borderColor={chosen ? "accent" : "line"} bg={chosen ? "bg.raised" : undefined} aria-pressed={chosen} aria-label={`Choose ${solve.name}`}
      onClick={() => { if (!chosen) void edit("take", `choose ${solve.name}`, [{ path: "sources/curves", value: solve.source }]); }}>
      <Flex justify="space-between"><Text fontWeight="600">{solve.name}</Text><Text fontSize="sm" color="dim">{solve.made.slice(0, 16).replace("T", " ")}, {solve.by}</Text></Flex>
      <Fact name={solve.card || "no card"}>{solve.frames} frames, sure {(solve.confidence * 100).toFixed(0)}%</Fact>
      {(solve.unsure > 0 || solve.lost > 0) && <Text fontSize="sm" color="accent">{solve.unsure} frames unsure{solve.lost ? `, face lost in ${solve.lost}` : ""}</Text>}
    </Flex>
  );
}
