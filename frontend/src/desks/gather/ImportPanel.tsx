// Files on their way in: the report before anything is kept, each part of the reading correctable.
import { Box, Flex, Progress, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { api } from "../../api/client";
import { useArrival } from "../../shared/arrival";
import { notify } from "../../shared/notices";
import { Fact, Plain, Primary, Section, TextField } from "../../drawer/parts";
import { reload, useSession } from "../../workspace/workspace";
import { named, PATTERN } from "./arrange";
import { FootageFacts, type FootageInfo } from "./FootageFacts";
import { asFile, correct, forget, kindOf, takeAs, useImports, type Incoming } from "./imports";
import { TableReading } from "./TableReading";

export function ImportPanel({ production }: { production: string }) {
  const { incoming } = useImports();
  const client = useQueryClient();
  const arrival = useArrival();
  const opened = useSession((s) => s.opened);
  const ready = incoming.filter((i) => i.state === "ready");
  const parts = ready.filter((i) => !["character", "notes"].includes(kindOf(i)));
  // A curve table, a clip or a set of markers heads a take; the rest goes with it.
  const clips = parts.filter((i) => i.inspection!.kind === "footage");
  const stages = parts.filter((i) => i.inspection!.kind === "markers");
  const tables =
    clips.length > 1 ? clips : stages.length > 1 ? stages : parts.filter((i) => i.inspection!.kind === "curves");
  const stem = (tables[0] ?? parts[0])?.file.replace(/\.[^.]+$/, "") ?? "";
  const [slate, setSlate] = useState<string | null>(null);
  const [performer, setPerformer] = useState("");
  const [pattern, setPattern] = useState(PATTERN);
  const [busy, setBusy] = useState(false);
  // A take made now would be without the files that are still on their way.
  const coming = incoming.filter((i) => i.state === "sending").length;

  const done = async (keys: number[]) => {
    forget(keys);
    await client.invalidateQueries({ queryKey: ["takes"] });
    await client.invalidateQueries({ queryKey: ["characters"] });
  };
  const guarded = async (work: () => Promise<void>) => {
    setBusy(true);
    try {
      await work();
    } catch (error) {
      notify(error as never);
    } finally {
      setBusy(false);
    }
  };
  // Several tables make a take each; what else there is goes with the one whose name begins alike, or the only one.
  const makeTakes = () =>
    guarded(async () => {
      const heads = tables.length > 1 ? tables : [undefined];
      const open = arrival();
      for (const head of heads) {
        const own = head
          ? parts.filter(
              (p) => p === head || (!tables.includes(p) && p.file.startsWith(head.file.replace(/\.[^.]+$/, ""))),
            )
          : parts;
        const said = head
          ? (named(head.file, pattern) ?? { slate: head.file.replace(/\.[^.]+$/, ""), performer: "" })
          : { slate: slate ?? stem, performer: "" };
        const made = await api.newTake(production, said.slate || "take", said.performer || performer, own.map(asFile));
        if (head === heads.at(-1)) open(`/${production}/gather/${made.id}`);
        await done(own.map((o) => o.key));
      }
      setSlate(null);
    });
  const attach = () =>
    guarded(async () => {
      for (const part of parts) await api.attach(opened!.take.id, asFile(part));
      await done(parts.map((p) => p.key));
      await reload();
    });
  const applyNotes = (item: Incoming) =>
    guarded(async () => {
      const { changed, unknown } = await api.applyNotes(production, asFile(item));
      await done([item.key]);
      notify({
        kind: "success",
        message: `${item.file}: ${changed} takes changed`,
        detail: unknown.length ? `No take has the slate ${unknown.slice(0, 8).join(", ")}` : "",
      });
      if (opened) await reload();
    });
  const makeClips = (item: Incoming, startFrame: number) =>
    guarded(async () => {
      const open = arrival();
      const takes = await api.bringClips(production, performer, asFile(item), startFrame);
      open(`/${production}/gather/${takes[0]!.id}`);
      await done([item.key]);
      const left = [...new Set(takes.flatMap((t) => t.unmatched))];
      notify({
        kind: "success",
        message: takes
          .map(
            (t) =>
              `${t.slate}: ${t.matched} curves, ${t.joints ? `a body of ${t.joints} joints, ` : ""}${t.frames} frames`,
          )
          .join("; "),
        detail: [
          left.length ? `No shape is named like ${left.slice(0, 8).join(", ")}` : "",
          ...takes.flatMap((t) => t.notes),
        ]
          .filter(Boolean)
          .join(". "),
      });
    });
  const makeCharacter = (item: Incoming) =>
    guarded(async () => {
      const name = item.file.replace(/\.[^.]+$/, "");
      await api.newCharacter(production, name.charAt(0).toUpperCase() + name.slice(1), asFile(item));
      await done([item.key]);
      notify({ kind: "success", message: `${item.file} is a character of this production now` });
      if (opened) await reload();
    });

  return (
    <Box data-testid="import-panel">
      <Section
        title={`Coming in (${incoming.length})`}
        aside={
          <Plain size="2xs" onClick={() => forget(incoming.map((i) => i.key))}>
            Forget all
          </Plain>
        }
      >
        {incoming.map((item) => (
          <Item
            key={item.key}
            item={item}
            production={production}
            onCharacter={() => void makeCharacter(item)}
            onNotes={() => void applyNotes(item)}
            onClips={(start) => void makeClips(item, start)}
            busy={busy}
          />
        ))}
      </Section>
      {parts.length > 0 && (
        <Section title="Make of it">
          {tables.length > 1 && (
            <>
              <TextField label="Names are" value={pattern} onCommit={setPattern} placeholder={PATTERN} />
              <Text fontSize="sm" color="dim">
                Of {"{slate}"}, {"{take}"}, {"{performer}"}, {"{any}"}, such as {"{performer}_{slate}_{take}"}.
              </Text>
              <Box my="1.5" maxH="120px" overflowY="auto" data-testid="named">
                {tables.map((t) => {
                  const said = named(t.file, pattern);
                  return (
                    <Fact key={t.key} name={t.file}>
                      {said ? (
                        [said.slate, said.performer].filter(Boolean).join(", ")
                      ) : (
                        <Text as="span" color="accent">
                          does not fit
                        </Text>
                      )}
                    </Fact>
                  );
                })}
              </Box>
            </>
          )}
          {tables.length <= 1 && <TextField label="Slate" value={slate ?? stem} onCommit={setSlate} />}
          <TextField label="Performer" value={performer} onCommit={setPerformer} placeholder="who was captured" />
          <Flex gap="2" mt="2">
            <Primary disabled={busy || coming > 0} onClick={() => void makeTakes()}>
              {tables.length > 1 ? `Make ${tables.length} takes` : "Make a take"}
            </Primary>
            {opened && tables.length <= 1 && (
              <Plain disabled={busy || coming > 0} onClick={() => void attach()}>
                Add to {String(opened.take.body.slate)}
              </Plain>
            )}
          </Flex>
          {coming > 0 && (
            <Text mt="1" fontSize="sm" color="dim">
              {coming === 1 ? "One file is" : `${coming} files are`} still being looked at.
            </Text>
          )}
        </Section>
      )}
    </Box>
  );
}

function Item({
  item,
  production,
  onCharacter,
  onNotes,
  onClips,
  busy,
}: {
  item: Incoming;
  production: string;
  onCharacter: () => void;
  onNotes: () => void;
  onClips: (startFrame: number) => void;
  busy: boolean;
}) {
  const kind = item.inspection && kindOf(item);
  return (
    <Box
      borderWidth="1px"
      borderColor={item.state === "bad" ? "accent" : "line"}
      borderRadius="sm"
      p="2"
      mb="2"
      bg="bg.raised"
    >
      <Flex justify="space-between" gap="2">
        <Text fontWeight="600" overflowWrap="anywhere">
          {item.file}
        </Text>
        <Box
          as="button"
          aria-label={`Forget ${item.file}`}
          cursor="pointer"
          color="dim"
          onClick={() => forget([item.key])}
        >
          <X size={14} />
        </Box>
      </Flex>
      {item.state === "sending" && (
        <Progress.Root value={item.share ? item.share * 100 : null} size="xs" mt="2">
          <Progress.Track bg="bg.pressed">
            <Progress.Range bg="accent" />
          </Progress.Track>
        </Progress.Root>
      )}
      {item.problem && (
        <Box mt="1" role="alert">
          <Text>{item.problem.message}</Text>
          {item.problem.where && (
            <Text color="dim" fontSize="sm">
              at {item.problem.where}
            </Text>
          )}
          {item.problem.hint && (
            <Text color="dim" fontSize="sm">
              {item.problem.hint}
            </Text>
          )}
        </Box>
      )}
      {item.problem && item.media && /rate/.test(item.problem.message) && (
        <RateAsk onRate={(rate) => void correct(production, item, { rate })} />
      )}
      {item.state === "ready" && kind === "curves" && <TableReading item={item} production={production} />}
      {item.state === "ready" && kind === "footage" && (
        <Box mt="1">
          <FootageFacts info={item.inspection!.report as FootageInfo} />
        </Box>
      )}
      {item.state === "ready" && kind !== "curves" && <Facts item={item} />}
      {item.state === "ready" && kind === "notes" && (
        <Primary mt="2" disabled={busy} onClick={onNotes}>
          Circle and note the takes
        </Primary>
      )}
      {item.state === "ready" && kind === "character" && (
        <Primary mt="2" disabled={busy} onClick={onCharacter}>
          Add the character
        </Primary>
      )}
      {item.state === "ready" && <Bodies item={item} />}
      {item.state === "ready" && kind === "character" && (
        <Clips names={(item.inspection!.report.clips as string[] | undefined) ?? []} busy={busy} onClips={onClips} />
      )}
    </Box>
  );
}

/** The performers in a file, one of whom it can be the body of. */
function Bodies({ item }: { item: Incoming }) {
  const { bodies = [], which } = item;
  if (!bodies.length || (bodies.length === 1 && kindOf(item) === item.inspection!.kind && which === 0)) return null;
  const character = item.inspection!.kind === "character";
  return (
    <Box mt="2" data-testid="bodies">
      <Text fontSize="sm" color="dim">
        {character
          ? "Its skeleton moves, so it can be the body of a take."
          : `It holds ${bodies.length} performers; one is taken.`}
      </Text>
      {bodies.map((body, number) => (
        <Flex key={number} align="center" justify="space-between" gap="2" py="0.5">
          <Text fontSize="sm" minW="0" truncate color={which === number ? "accent" : undefined}>
            {body.name}, {body.joints} joints, {body.seconds.toFixed(1)} s
          </Text>
          <Plain
            size="2xs"
            flexShrink={0}
            aria-label={`${body.name} as the body`}
            aria-pressed={which === number}
            onClick={() => takeAs(item.key, which === number && character ? null : number)}
          >
            {which === number ? "the body" : "As the body"}
          </Plain>
        </Flex>
      ))}
    </Box>
  );
}

/** A glTF whose shapes are animated may be a take as well: its meshes are set aside. */
function Clips({ names, busy, onClips }: { names: string[]; busy: boolean; onClips: (startFrame: number) => void }) {
  const [start, setStart] = useState("0");
  if (!names.length) return null;
  return (
    <Box mt="2" data-testid="clips">
      <Text fontSize="sm">
        Its shapes are animated: {names.slice(0, 6).join(", ")}
        {names.length > 6 ? " …" : ""}.
      </Text>
      <TextField label="Start frame" value={start} onCommit={setStart} />
      <Plain mt="1" disabled={busy || !/^\d+$/.test(start.trim())} onClick={() => onClips(Number(start))}>
        {names.length > 1 ? `Bring in ${names.length} takes` : "Bring in as a take"}
      </Plain>
    </Box>
  );
}

function RateAsk({ onRate }: { onRate: (rate: string) => void }) {
  return (
    <Flex gap="1" mt="2" wrap="wrap">
      {["24", "25", "30", "50", "60", "120"].map((r) => (
        <Plain key={r} size="2xs" onClick={() => onRate(r)}>
          {r} fps
        </Plain>
      ))}
    </Flex>
  );
}

function Facts({ item }: { item: Incoming }) {
  const r = item.inspection!.report as Record<string, unknown>;
  const facts: Record<string, [string, string][]> = {
    sound: [
      ["Sound", `${Number(r.seconds).toFixed(2)} s, ${Number(r.rate) / 1000} kHz, ${String(r.channels)} ch`],
      ["Loudest", `${(Number(r.peak) * 100).toFixed(0)}%`],
    ],
    body: [
      ["Body", `${String(r.joints)} joints, ${Number(r.seconds).toFixed(2)} s at ${String(r.rate)} fps`],
      ["Timecode", String(r.timecode || "none")],
    ],
    notes: [
      ["Rows", `${String(r.rows)}, ${String(r.circled)} circled`],
      ["Slates", (r.slates as string[] | undefined)?.slice(0, 8).join(", ") ?? ""],
    ],
    character: [
      ["Character", `${String(r.targets)} shapes, ${String(r.joints)} joints`],
      ["Meshes", (r.meshes as string[])?.join(", ") ?? ""],
    ],
  };
  return (
    <Box mt="1">
      {(kindOf(item) === item.inspection!.kind ? facts[kindOf(item)] : [])?.map(([n, v]) => (
        <Fact key={n} name={n}>
          {v}
        </Fact>
      ))}
    </Box>
  );
}
