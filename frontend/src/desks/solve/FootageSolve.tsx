// From footage to curves: a performer card, the solve as a job, the solves so far, and how sure the chosen one is.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, type Job } from "../../api/client";
import { notify } from "../../shared/notices";
import { Plain, Primary, Section } from "../../drawer/parts";
import { onHistory, useOpen, setCompanion } from "../../workspace/workspace";
import { useRange } from "../../playback/useClock";
import { CardMaker } from "./CardMaker";
import { DotPanel } from "./DotPanel";
import { ClipSpan } from "./ClipSpan";
import { solveWord } from "./spanOfClip";
import { ClipNeutral } from "./ClipNeutral";
import { CardDrives } from "./CardDrives";
import { CardShapes } from "./CardShapes";
import { Confidence } from "./Confidence";
import { JobRow } from "./JobRow";
import { Tacks } from "./Tacks";
import { Solves } from "./Solves";
import { cardFor } from "./footageJobs";
import { useDeskJobs } from "../../workspace/useDeskJobs";

const MOVES = {
  head: "the head, the camera stands",
  camera: "the camera, round a still head",
  neither: "neither: a head mount",
};
type Moves = keyof typeof MOVES;
/** neutral: frames that were taken for it, without a card; neutralAt: the one that was chosen for it. */
type Solved = {
  first: number;
  tacks?: number;
  card: string;
  moves?: Moves;
  neutral?: number[];
  neutralAt?: number | null;
};

export function FootageSolve() {
  const { production = "" } = useParams();
  const { opened } = useOpen("opened");
  const client = useQueryClient();
  const take = opened!.take;
  const footage = opened!.sources.footage!;
  const chosen = opened!.sources.curves;
  const ready = !!footage.info.proxy;
  const cards = useQuery({ queryKey: ["cards", production], queryFn: () => api.cards(production) }).data ?? [];
  const solves = useQuery({ queryKey: ["solves", take.id], queryFn: () => api.solves(take.id) }).data ?? [];
  const [card, setCard] = useState<string | null>(null);
  const [moves, setMoves] = useState<Moves>("head");
  const range = useRange();
  const wanted = card ?? cardFor(cards, take.body.performer)?.id ?? "";
  const held = cards.find((c) => c.id === wanted);
  useEffect(() => setCompanion("card", held?.id), [held?.id, take.id]);
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["cards"] })), [client]);
  const { mine, running } = useDeskJobs(
    ["footage", "card", "solve", "proposal", "dots", "dot samples"],
    ["cards", "dots", "solves", "takes"],
    !ready,
  );

  const ask = async (work: () => Promise<Job>) => {
    try {
      await work();
      await client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      notify(error as never);
    }
  };
  const about = chosen?.info.solve as Solved | undefined;
  const start = about?.first ?? 0;
  const count = Number(footage.info.frames);
  const span = take.body.clipSpan ?? null;
  /** neutral: without a card, the frame that is; null where it is looked for. */
  const solve = (first: number | null, last: number | null, neutral: number | null = null) =>
    void ask(() => api.solve(take.id, { card: wanted || null, first, last, moves, neutral: wanted ? null : neutral }));
  /** The same frames again. */
  const solveAgain = (neutral: number | null) =>
    solve(start, start + Number(solves.find((s) => s.source === chosen!.id)?.frames ?? count) - 1, neutral);
  const tacked = Object.values(take.body.tacks).filter((p) => p.frame >= start).length;
  return (
    <>
      <Section
        title="Solve"
        aside={
          <Text fontSize="sm" color="dim" truncate>
            {footage.name}
          </Text>
        }
      >
        <Choice label="Card">
          <NativeSelect.Field aria-label="Performer card" value={wanted} onChange={(e) => setCard(e.target.value)}>
            <option value="">none: the clip alone</option>
            {cards
              .filter((c) => c.ready)
              .map((c) => (
                <option key={c.id} value={c.id}>
                  {c.name} ({c.sampled} samples)
                </option>
              ))}
          </NativeSelect.Field>
        </Choice>
        <Choice label="What moves">
          <NativeSelect.Field aria-label="What moves" value={moves} onChange={(e) => setMoves(e.target.value as Moves)}>
            {Object.entries(MOVES).map(([key, word]) => (
              <option key={key} value={key}>
                {word}
              </option>
            ))}
          </NativeSelect.Field>
        </Choice>
        <ClipSpan span={span} start={start} count={count} />
        <Flex gap="2" mt="2" align="center">
          <Primary disabled={!ready || running} onClick={() => solve(null, null)}>
            {solveWord(span, count)}
          </Primary>
          {ready && range && (
            <Plain disabled={running} onClick={() => solve(start + range.from, Math.min(start + range.to, count - 1))}>
              Only {start + range.from}..{start + range.to}
            </Plain>
          )}
          {!ready && !running && (
            <Plain onClick={() => void ask(() => api.lookThrough(take.id))}>Look through the clip</Plain>
          )}
        </Flex>
        {!wanted && ready && (
          <Text mt="2" fontSize="sm" color="dim">
            Without a card the general face is used, and the frames in which the least is expressed are taken for
            neutral. A card from a range of motion finds far more.
          </Text>
        )}
        {!wanted && !!about?.neutral?.length && (
          <ClipNeutral neutral={about.neutral} start={start} busy={running} onTake={solveAgain} />
        )}
        {mine
          .filter((j) => j.state !== "done")
          .slice(0, 3)
          .map((j) => (
            <JobRow key={j.id} job={j} onCancel={() => void ask(() => api.cancelJob(j.id))} />
          ))}
      </Section>
      {solves.length > 0 && <Solves solves={solves} />}
      {about?.moves === "camera" && (
        <Section title="The camera's motion">
          <Text fontSize="sm" color="dim" mb="2">
            Round a still head: where the camera is, in metres from between the eyes, and how it is turned.
          </Text>
          <Plain asChild>
            <a href={`/api/sources/${chosen!.id}/camera`} download>
              Take it as a table (.csv)
            </a>
          </Plain>
        </Section>
      )}
      {!!about && <Confidence source={chosen!.id} />}
      {!!about && !("dots" in about) && (
        <Tacks
          first={start}
          unsolved={tacked !== (about.tacks ?? 0)}
          busy={running}
          onSolve={() => solveAgain(about.neutralAt ?? null)}
        />
      )}
      <DotPanel ready={ready} busy={running} ask={ask} />
      {held && <CardShapes card={held} />}
      {held && <CardDrives card={held} />}
      {ready && (
        <CardMaker
          key={take.id}
          first={start}
          take={take.id}
          performer={take.body.performer}
          busy={running}
          onMake={(given) => ask(() => api.newCard(take.id, given))}
        />
      )}
    </>
  );
}

function Choice({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Flex align="center" gap="2" py="0.5">
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        {label}
      </Text>
      <NativeSelect.Root size="xs">
        {children}
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Flex>
  );
}
