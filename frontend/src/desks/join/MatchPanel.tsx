// Which joint of the character is which of the body: what wants a look first, both sides at once, the rest pose, and matches by name.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { ChoiceField } from "../../drawer/ChoiceField";
import { AmountField, Plain, Section, Toggle } from "../../drawer/parts";
import {
  concerned,
  DOUBTFUL,
  FIELDS,
  inOrder,
  states,
  STATE_WORDS,
  turnable,
  turning,
  type Joint,
  type Report,
} from "../../match/matchModel";
import {
  chooseJoint,
  hoverJoint,
  matchJoint,
  mirrorMatches,
  showMatch,
  useMatchReport,
  useMatchState,
} from "../../match/useMatch";
import { edit, preview, useOpen } from "../../workspace/workspace";
import { KeptMatch } from "./KeptMatch";
import { RestPose } from "./RestPose";

const CHAINS: Record<string, string> = { share: "share the turn of their part", last: "turn as the last one" };

export function MatchPanel() {
  const { opened } = useOpen("opened");
  const report = useMatchReport();
  useEffect(() => {
    showMatch(true);
    return () => showMatch(false);
  }, []);
  const hands = useMatchState((s) => s.part === "hands");
  if (!opened?.sources.body && !opened?.sources.hands)
    return (
      <Box p="3" color="dim">
        This take has no body to match. Bring one in with the Body tab.
      </Box>
    );
  if (!report)
    return (
      <Box p="3" color="dim">
        Nothing can be matched: the take needs face curves and a character with joints.
      </Box>
    );
  return (
    <Box data-testid="match-panel">
      {opened.sources.hands && (
        <Section title="Skeleton">
          <Flex gap="1.5" role="group" aria-label="Whose skeleton">
            {(["body", "hands"] as const).map((part) => (
              <Plain
                key={part}
                size="2xs"
                disabled={!opened.sources[part]}
                aria-pressed={(part === "hands") === hands}
                bg={(part === "hands") === hands ? "bg.pressed" : undefined}
                onClick={() => showMatch(true, part)}
              >
                {part === "hands" ? "Of the hands" : "Of the body"}
              </Plain>
            ))}
          </Flex>
        </Section>
      )}
      <Panel report={report} />
    </Box>
  );
}

function Panel({ report }: { report: Report }) {
  const both = useMatchState((s) => s.both);
  const { look, rest } = inOrder(report);
  const matched = Object.keys(report.matches).length;
  return (
    <Box>
      <KeptMatch key={report.part} report={report} />
      <Section
        title="Joints"
        aside={
          <Text color="dim" fontSize="sm">
            {matched} of {concerned(report).length} matched
          </Text>
        }
      >
        <Flex align="center" justify="space-between" gap="2">
          <Toggle
            label="Both sides at once"
            hint="What is said of a joint on one side is said of its twin on the other"
            on={both}
            onChange={mirrorMatches}
          />
          {report.own.length > 0 && (
            <Plain
              size="2xs"
              title="Back to what is kept or proposed"
              onClick={() => void edit("join", "match as proposed", [{ path: FIELDS[report.part].matches, value: {} }])}
            >
              As proposed
            </Plain>
          )}
        </Flex>
        <Text fontSize="sm" color="dim" mt="1">
          Press a joint of each skeleton in the viewer to match them.
        </Text>
        {report.part === "body" && (
          <ChoiceField
            word="Extra joints"
            label="What extra joints of spine and neck do"
            value={report.chains}
            choices={CHAINS}
            onChoose={(v) => void edit("join", `extra joints ${CHAINS[v]}`, [{ path: "chains", value: v }])}
          />
        )}
      </Section>
      <Section title={`To look at (${look.length})`}>
        {look.length ? (
          <Rows report={report} joints={look} />
        ) : (
          <Text fontSize="sm" color="dim">
            Nothing: every part of the character's body has its joint.
          </Text>
        )}
      </Section>
      {report.part === "body" && <RestPose report={report} />}
      <Section title={`All others (${rest.length})`}>
        <Rows report={report} joints={rest} />
      </Section>
    </Box>
  );
}

function Rows({ report, joints }: { report: Report; joints: Joint[] }) {
  const state = states(report);
  return (
    <Box fontSize="sm" data-testid="joints">
      {joints.map((j) => (
        <Row key={j.name} report={report} name={j.name} words={STATE_WORDS[state[j.name]!]} />
      ))}
    </Box>
  );
}

function Row({ report, name, words }: { report: Report; name: string; words: string }) {
  const chosen = useMatchState((s) => s.chosen.character === name);
  const meant = useMatchState((s) =>
    s.over?.whose === "body" ? report.matches[name] === s.over.name : s.over?.name === name,
  );
  const both = useMatchState((s) => s.both);
  const row = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (chosen) row.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const sure = report.confidence[name];
  const theirs = report.matches[name] ?? "";
  return (
    <>
      <Flex
        ref={row}
        align="center"
        gap="2"
        px="1"
        mx="-1"
        py="0.5"
        borderRadius="2px"
        bg={chosen ? "bg.pressed" : meant ? "bg.raised" : undefined}
        onPointerEnter={() => hoverJoint({ whose: "character", name })}
        onPointerLeave={() => hoverJoint(null)}
      >
        <Box
          as="button"
          flex="1"
          minW="0"
          textAlign="left"
          cursor="pointer"
          aria-pressed={chosen}
          onClick={() => chooseJoint(report, "character", name)}
        >
          <Text truncate color={theirs ? "ink" : "dim"}>
            {name}
            {report.own.includes(name) && (
              <Text as="span" color="accent" title="Said in this take">
                {" "}
                •
              </Text>
            )}
          </Text>
          {words && (
            <Text color="dim" fontSize="xs" truncate>
              {words}
              {sure !== undefined && sure < DOUBTFUL && ` (${Math.round(sure * 100)}%)`}
            </Text>
          )}
        </Box>
        <NativeSelect.Root size="xs" w="150px" flexShrink={0}>
          <NativeSelect.Field
            aria-label={`Body joint of ${name}`}
            value={theirs}
            onChange={(e) => matchJoint(report, name, e.target.value, both)}
          >
            <option value="">follows its parent</option>
            {report.body.map((j) => (
              <option key={j.name} value={j.name}>
                {j.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      {chosen && turnable(report, name) && <Correction report={report} name={name} />}
    </>
  );
}

const AXES = [
  { word: "About left", hint: "Forward and back" },
  { word: "About up", hint: "To the sides" },
  { word: "About ahead", hint: "Up and down beside the body" },
];

function Correction({ report, name }: { report: Report; name: string }) {
  const both = useMatchState((s) => s.both);
  const now = report.turns[name] ?? [0, 0, 0];
  const turned = (axis: number, degrees: number) =>
    turning(
      report,
      name,
      now.map((v, i) => (i === axis ? degrees : v)),
      both,
    );
  return (
    <Box px="2" py="1.5" mb="1" borderLeftWidth="2px" borderColor="accent" data-testid="rest-of-joint">
      <Flex align="center" justify="space-between">
        <Text color="dim">Its rest is turned by</Text>
        {now.some((v) => v) && (
          <Plain
            size="2xs"
            onClick={() => void edit("join", `rest of ${name} as it is`, turning(report, name, [0, 0, 0], both))}
          >
            None
          </Plain>
        )}
      </Flex>
      {AXES.map(({ word, hint }, axis) => (
        <AmountField
          key={word}
          label={word}
          hint={hint}
          value={now[axis]!}
          rest={0}
          low={-90}
          high={90}
          step={0.5}
          unit="deg"
          onDrag={(v) => void preview({ join: turned(axis, v) })}
          onCommit={(v) => void edit("join", `turn the rest of ${name}`, turned(axis, v))}
        />
      ))}
      <Text fontSize="sm" color="dim">
        Or drag the ring about the joint in the viewer: it turns about the way you look.
      </Text>
    </Box>
  );
}
