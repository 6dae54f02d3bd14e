// Words: what the role says and when, and what its words lead.
import { Box, Flex, Text, Textarea } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { freshId, pathOf } from "../../api/changes";
import { api } from "../../api/client";
import { AmountField, Plain, Primary, Section, TextField } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useRange } from "../../playback/useClock";
import { isLight } from "../../shared/colourMode";
import { notify } from "../../shared/notices";
import { colourOf } from "../../shared/regions";
import { nameOfRole, type ShotState } from "../../workspace/state";
import { useDeskJobs } from "../../workspace/useDeskJobs";
import { activeShot, useOpen } from "../../workspace/workspace";
import { LanguageField } from "./LanguageField";
import { chooseSpan, useLayerDesk } from "./layerState";
import { phoneWeighed, takesOf, weightsOf, wordsOf, type Said } from "./wordModel";

const SPEAKS = ["lips", "jaw", "tongue"] as const;

export function WordsPanel() {
  const { shot } = useOpen("shot");
  const chosen = useLayerDesk((s) => s.word);
  const { running, mine } = useDeskJobs(["words"], ["words"]);
  if (!shot?.role)
    return (
      <Text p="3" color="dim">
        Put a clip with sound in first: words are those of a role.
      </Text>
    );
  const said = wordsOf(shot, shot.role);
  const word = said.find((w) => w.key === chosen);
  const failed = mine[0]?.state === "failed" ? mine[0].message : "";
  return (
    <>
      {word && <ChosenWord said={word} />}
      <Section title={`What ${nameOfRole(shot, shot.role)} says`}>
        {!takesOf(shot, shot.role).length && <Text color="dim">No clip of this role has sound.</Text>}
        {takesOf(shot, shot.role).map((t) => (
          <Line key={t.take} shot={shot} {...t} running={running} />
        ))}
        {failed && (
          <Text fontSize="sm" color="accent">
            {failed}
          </Text>
        )}
        {said.length > 0 && (
          <Text fontSize="sm" color="dim" mt="1">
            {said.length} words in the deck: drag their edges where they are off, all that follows from them goes along.
          </Text>
        )}
      </Section>
      {said.length > 0 && <Leading shot={shot} />}
    </>
  );
}

type LineProps = { shot: ShotState; take: string; slate: string; sound: string; running: boolean };

function Line({ shot, take, slate, sound, running }: LineProps) {
  const held = shot.opened.words.find((w) => w.body.sound === sound)?.body;
  const [text, setText] = useState(held?.text ?? "");
  const [language, setLanguage] = useState(held?.language ?? "en");
  useEffect(() => setText(held?.text ?? ""), [held?.text]);
  const client = useQueryClient();
  const find = () =>
    api.findWords(take, text, language).then(
      () => client.invalidateQueries({ queryKey: ["jobs"] }),
      (error: unknown) => notify(error as never),
    );
  return (
    <Box mb="2" data-testid="line">
      <Flex justify="space-between" align="center" mb="1">
        <Text fontSize="sm" color="dim">
          {slate}
        </Text>
        <LanguageField label={`Language of ${slate}`} value={language} onChange={setLanguage} />
      </Flex>
      <Textarea
        size="xs"
        rows={2}
        aria-label={`Text of ${slate}`}
        placeholder="what is said; without it vowels are guessed, which is rough"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <Plain size="2xs" mt="1" disabled={running} onClick={() => void find()}>
        {running ? "Listening …" : held ? "Find the words again" : text.trim() ? "Find the words" : "Guess the words"}
      </Plain>
    </Box>
  );
}

function ChosenWord({ said }: { said: Said }) {
  const path = (field: string) => pathOf("words", said.word, field);
  const edit = (label: string, field: string, value: unknown) =>
    void activeShot()?.edit(said.document, label, [{ path: path(field), value }]);
  return (
    <Section
      title={`“${said.entry.word}”`}
      aside={
        <Plain size="2xs" onClick={() => clock.setRange({ from: Math.round(said.from), to: Math.round(said.to) })}>
          Mark it
        </Plain>
      }
    >
      <TextField label="Word" value={said.entry.word} onCommit={(v) => v.trim() && edit("a word", "word", v.trim())} />
      {(["lips", "jaw"] as const).map((part) => (
        <AmountField
          key={part}
          label={part === "lips" ? "Its lips" : "Its jaw"}
          hint="In speech that is made"
          mark={colourOf(part, isLight())}
          value={said.entry[part]}
          rest={1}
          low={0}
          high={2}
          step={0.01}
          onDrag={() => undefined}
          onCommit={(v) => edit(`${part} of “${said.entry.word}”`.slice(0, 120), part, v)}
        />
      ))}
      <Phones said={said} />
    </Section>
  );
}

/** The phones of a word, one of which can count more or less than the others. */
function Phones({ said }: { said: Said }) {
  const [at, setAt] = useState<number | null>(null);
  const { phones } = said.entry;
  const chosen = at !== null ? phones[at] : undefined;
  return (
    <Box mt="1">
      <Flex gap="1" wrap="wrap" role="group" aria-label="Phones">
        {phones.map((phone, i) => {
          const [lips, jaw] = weightsOf(phone);
          return (
            <Box
              as="button"
              key={i}
              px="1.5"
              fontSize="xs"
              borderWidth="1px"
              borderRadius="2px"
              borderColor={i === at ? "paper" : "line"}
              color={lips === 1 && jaw === 1 ? "dim" : "accent"}
              cursor="pointer"
              aria-pressed={i === at}
              onClick={() => setAt(i === at ? null : i)}
            >
              {phone[0]}
            </Box>
          );
        })}
      </Flex>
      {chosen &&
        (["lips", "jaw"] as const).map((part, n) => (
          <AmountField
            key={part}
            label={`${part} in ${chosen[0]}`}
            hint="In speech that is made, times what the word has"
            mark={colourOf(part, isLight())}
            value={weightsOf(chosen)[n]!}
            rest={1}
            low={0}
            high={2}
            step={0.01}
            onDrag={() => undefined}
            onCommit={(v) =>
              void activeShot()?.edit(
                said.document,
                `${part} in ${chosen[0]} of “${said.entry.word}”`.slice(0, 120),
                phoneWeighed(said, at!, part, v),
              )
            }
          />
        ))}
    </Box>
  );
}

/** The capture counts less under words, or the open layer does. */
function Leading({ shot }: { shot: ShotState }) {
  const range = useRange();
  const [regions, setRegions] = useState<string[]>(["lips", "jaw"]);
  const [low, setLow] = useState(0.3);
  const [before, setBefore] = useState(120);
  const [after, setAfter] = useState(150);
  const [by, setBy] = useState<"phrase" | "word">("phrase");
  const layer = shot.opened.layers.find((l) => l.id === shot.layer);
  const within: [number, number] | null = range ? [range.from, range.to] : null;
  const asked = { low, before: before / 1000, after: after / 1000, by, within };
  const lead = () =>
    activeShot()?.changeShot((s) => api.wordsLead(s.id, { ...asked, version: s.version, role: shot.role, regions }));
  const capture = () =>
    layer && activeShot()?.changeLayer(layer.id, (l) => api.captureLeads(l.id, { ...asked, version: l.version }));
  const say = async () => {
    const session = activeShot();
    if (!session) return;
    chooseSpan(null);
    await session.addLayer("mouth", "add");
    const made = session.layer;
    if (made)
      await session.edit(made.id, "say the words", [
        { path: pathOf("makers", freshId("m")), value: { maker: "speech", rank: 1 } },
      ]);
  };
  return (
    <Section
      title="Words lead"
      aside={
        <Text fontSize="sm" color={range ? "accent" : "dim"}>
          {range ? `${range.from} to ${range.to}` : "all of them"}
        </Text>
      }
    >
      <Flex gap="1" mb="1" role="group" aria-label="On">
        {SPEAKS.map((r) => {
          const on = regions.includes(r);
          return (
            <Box
              as="button"
              key={r}
              px="2"
              py="0.5"
              fontSize="xs"
              borderWidth="1px"
              borderColor="line"
              borderRadius="2px"
              cursor="pointer"
              aria-pressed={on}
              color={on ? "bg.ground" : "dim"}
              style={on ? { background: colourOf(r, isLight()) } : undefined}
              onClick={() => setRegions(on ? regions.filter((x) => x !== r) : [...regions, r])}
            >
              {r}
            </Box>
          );
        })}
      </Flex>
      <AmountField
        label="Counts"
        hint="How much of the capture counts under words"
        value={low}
        rest={0.3}
        low={0}
        high={1.5}
        step={0.01}
        onDrag={() => undefined}
        onCommit={setLow}
      />
      {(
        [
          ["Comes before", before, 120, setBefore],
          ["Goes after", after, 150, setAfter],
        ] as const
      ).map(([label, value, rest, set]) => (
        <AmountField
          key={label}
          label={label}
          unit="ms"
          value={value}
          rest={rest}
          low={0}
          high={1000}
          step={10}
          onDrag={() => undefined}
          onCommit={set}
        />
      ))}
      <Flex gap="1" my="1" role="group" aria-label="By">
        {(["phrase", "word"] as const).map((b) => (
          <Plain
            key={b}
            size="2xs"
            aria-pressed={by === b}
            color={by === b ? "accent" : undefined}
            onClick={() => setBy(b)}
          >
            by {b}
          </Plain>
        ))}
      </Flex>
      <Flex gap="1" wrap="wrap">
        <Primary disabled={!regions.length} title="The capture counts less under them" onClick={() => void lead()}>
          Let the words lead
        </Primary>
        <Plain title="A layer in which jaw, lips and tongue say the words" onClick={() => void say()}>
          Say the words
        </Plain>
        <Plain disabled={!layer} title="The open layer counts less under them" onClick={() => void capture()}>
          Let the capture lead
        </Plain>
      </Flex>
    </Section>
  );
}
