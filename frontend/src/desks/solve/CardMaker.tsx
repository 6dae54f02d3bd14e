// A performer card from this clip: neutral and samples are proposed, each can be moved or dropped, then it is measured.
import { Box, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, type Proposal } from "../../api/client";
import { useCatalogue } from "../../shared/catalogue";
import { notify } from "../../shared/notices";
import { Plain, Primary, Section, TextField } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { Retake, type Again } from "./Retake";
import { turnFor } from "./footageJobs";
import { Frame, SampleStrip } from "./SampleStrip";

type Given = {
  name: string;
  neutral: [number, number] | null;
  samples: Record<string, number>;
  again: Record<string, { take: string; frame: number }>;
  turn: string | null;
  fov: number | null;
};
type Props = { take: string; performer: string; first: number; busy: boolean; onMake: (given: Given) => Promise<void> };

export function CardMaker({ take, performer, first, busy, onMake }: Props) {
  const { production = "" } = useParams();
  const { shapes } = useCatalogue();
  const takes = useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data ?? [];
  const clips = takes.filter((t) => t.id !== take && !t.archived && t.holds.includes("footage"));
  const [found, setFound] = useState<Proposal | null>(null);
  const [neutral, setNeutral] = useState<[number, number]>([0, 0]);
  const [samples, setSamples] = useState<Record<string, number>>({});
  const [again, setAgain] = useState<Record<string, Again>>({});
  const [retaken, setRetaken] = useState<string | null>(null);
  const [name, setName] = useState<string | null>(null);
  const [turn, setTurn] = useState<string | null>(null);
  const [fov, setFov] = useState("");
  const [asking, setAsking] = useState(false);
  const [pending, setPending] = useState<string | null>(null);
  const client = useQueryClient();
  const jobs = useQuery({ queryKey: ["jobs", production], queryFn: () => api.jobs(production) }).data ?? [];
  const shown = name ?? `${performer || "Performer"}, ${new Date().toISOString().slice(0, 10)}`;
  const turned = turn ?? turnFor(clips, performer)?.id ?? "";
  const [from, to] = neutral;
  const doubts =
    useQuery({
      queryKey: ["neutral", take, from, to],
      queryFn: () => api.doubts(take, from, to),
      enabled: found !== null && to >= from,
      retry: false,
    }).data?.doubts ?? [];
  const ask = async (work: () => Promise<void>) => {
    setAsking(true);
    try {
      await work();
    } catch (error) {
      notify(error as never);
    }
    setAsking(false);
  };
  const propose = () =>
    ask(async () => {
      setPending((await api.propose(take)).id);
      await client.invalidateQueries({ queryKey: ["jobs"] });
    });
  // The clip is solved with the general face first; what that shows comes as the result of a job.
  const job = pending ? jobs.find((j) => j.id === pending) : undefined;
  const ended = job && !["queued", "running"].includes(job.state) ? job : undefined;
  useEffect(() => {
    if (!ended) return;
    setPending(null);
    if (ended.state !== "done") return;
    const made = ended.result as Proposal;
    setFound(made);
    setNeutral(made.neutral);
    setSamples(made.samples);
  }, [ended]);
  const rows = Object.entries(samples)
    .sort((a, b) => a[1] - b[1])
    .map(([s, frame]) => ({ name: s, frame: again[s]?.frame ?? frame, clip: again[s]?.clip }));
  const slate = String(takes.find((t) => t.id === take)?.slate ?? "");
  const without = <T,>(from: Record<string, T>, name: string) =>
    Object.fromEntries(Object.entries(from).filter(([s]) => s !== name));
  const move = (shape: string, frame: number) => {
    const from = Math.max(0, frame - Math.floor((neutral[1] - neutral[0]) / 2));
    if (shape === "neutral") setNeutral([from, from + neutral[1] - neutral[0]]);
    else if (again[shape])
      setAgain({ ...again, [shape]: { ...again[shape]!, frame: Math.min(frame, again[shape]!.frames - 1) } });
    else setSamples({ ...samples, [shape]: frame });
  };
  // A sample that was taken again falls back to the one in this clip before it goes.
  const drop = (shape: string) =>
    again[shape] ? setAgain(without(again, shape)) : setSamples(without(samples, shape));
  const missing = shapes.filter((s) => !(s in samples) && s !== "tongueOut");
  return (
    <Section
      title="Performer card from this clip"
      aside={
        <Plain size="2xs" disabled={asking || busy || !!pending} onClick={() => void propose()}>
          {pending ? "Looking…" : "Propose"}
        </Plain>
      }
    >
      {found === null ? (
        <Text color="dim" fontSize="sm">
          For a range of motion: the still face and the frame of each expression's extreme are looked for (the clip is
          solved with the general face for that, which takes a while) and shown here, to be checked before the face is
          measured.
        </Text>
      ) : (
        <Box data-testid="card-maker">
          <TextField label="Name" value={shown} onCommit={setName} />
          <Row label="Neutral">
            {[0, 1].map((i) => (
              <Box key={i} w="52px">
                <Frame
                  label={i ? "Last neutral frame" : "First neutral frame"}
                  value={neutral[i]!}
                  onCommit={(v) => setNeutral(i ? [neutral[0], v] : [v, neutral[1]])}
                />
              </Box>
            ))}
            <Text fontSize="xs" color="dim">
              frames
            </Text>
          </Row>
          {doubts.map((w) => (
            <Text key={w} fontSize="sm" color="accent">
              {w[0]!.toUpperCase() + w.slice(1)} in the neutral frames.
            </Text>
          ))}
          <Row label="Head turn">
            <NativeSelect.Root size="xs">
              <NativeSelect.Field aria-label="Head turn" value={turned} onChange={(e) => setTurn(e.target.value)}>
                <option value="">none</option>
                {clips.map((c) => (
                  <option key={c.id} value={c.id}>
                    {c.slate} {c.performer}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Row>
          <Row label="Lens">
            <Input
              size="2xs"
              w="52px"
              textAlign="right"
              aria-label="Field of view"
              placeholder={turned ? "" : "40"}
              value={fov}
              onChange={(e) => setFov(e.target.value)}
            />
            <Text fontSize="xs" color="dim">
              ° top to bottom{fov ? "" : turned ? ", measured from the turn" : ", unless you know it"}
            </Text>
          </Row>
          <SampleStrip
            first={first}
            samples={[{ name: "neutral", frame: Math.round((neutral[0] + neutral[1]) / 2), fixed: true }, ...rows]}
            onMove={move}
            onDrop={drop}
            onAgain={setRetaken}
          />
          {retaken && (
            <Retake
              key={retaken}
              production={production}
              slate={slate}
              performer={performer}
              shape={retaken}
              onClose={() => setRetaken(null)}
              onTaken={(made) => {
                setAgain((known) => ({ ...known, [retaken]: made }));
                setRetaken(null);
              }}
            />
          )}
          {missing.length > 0 && (
            <Flex gap="1" wrap="wrap" mb="2" align="center">
              <Text fontSize="xs" color="dim" w="100%">
                Without a sample, from the general face ({missing.length}). Click one to take it from the playhead.
              </Text>
              {missing.map((s) => (
                <Plain
                  key={s}
                  size="2xs"
                  fontSize="xs"
                  h="18px"
                  px="1.5"
                  onClick={() => setSamples({ ...samples, [s]: clock.frame + first })}
                >
                  {s}
                </Plain>
              ))}
            </Flex>
          )}
          <Primary
            disabled={busy}
            onClick={() =>
              void onMake({
                name: shown,
                neutral,
                samples,
                again: Object.fromEntries(Object.entries(again).map(([s, a]) => [s, { take: a.take, frame: a.frame }])),
                turn: turned || null,
                fov: Number(fov) || null,
              })
            }
          >
            Measure the face
          </Primary>
        </Box>
      )}
    </Section>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Flex align="center" gap="2" py="0.5">
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        {label}
      </Text>
      {children}
    </Flex>
  );
}
