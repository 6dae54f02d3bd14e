// Recording what is heard: slate and number that counts by itself, a count-in, what happened.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { Plain, Primary, Section, TextField, Toggle } from "../drawer/parts";
import { clock, nextOf } from "./feedModel";
import { useLevel } from "../camera/useLevel";
import { ask, sendSound, useFeed } from "./feedWire";
import { closeMicrophone, openMicrophone, useMicrophone } from "./microphone";

export const COUNT_IN = 3;

export function RecordingSection({ production }: { production: string }) {
  const state = useFeed(
    useShallow(({ state: s }) => ({
      count: s?.count,
      recording: s?.recording,
      slate: s?.slate ?? "",
      number: s?.number ?? 0,
      timecode: s?.timecode,
      keeping: s?.keeping ?? 0,
      last: s?.made.at(-1),
      said: s?.said,
    })),
  );
  const [counts, setCounts] = useState(true);
  const microphone = useMicrophone();
  const level = useRef<HTMLDivElement>(null);
  useLevel(microphone.stream, level);
  const counting = state.count?.what === "record" ? state.count : null;
  const running = !!state.recording || !!counting;
  return (
    <Section
      title={state.recording ? `Recording ${nextOf(state)}` : "Record"}
      aside={
        state.recording && (
          <Flex align="center" gap="1.5">
            <Box w="8px" h="8px" borderRadius="full" bg="accent" />
            <Text fontFamily="number" data-testid="feed-recorded">
              {clock(state.recording.seconds)} · {state.recording.packets} packets
            </Text>
          </Flex>
        )
      }
    >
      {!running && <TextField label="Slate" value={state.slate} onCommit={(slate) => void ask("slate", { slate })} />}
      {counting && (
        <Text fontFamily="number" fontSize="40px" lineHeight="1.1" color="accent" textAlign="center">
          {Math.ceil(counting.left)}
        </Text>
      )}
      <Flex gap="3" mt="1.5" align="center">
        {running ? (
          <Primary onClick={() => void ask("stop")}>Stop</Primary>
        ) : (
          <Primary disabled={!!state.count} onClick={() => void ask("start", { count: counts ? COUNT_IN : 0 })}>
            Record {nextOf(state)}
          </Primary>
        )}
        {!running && <Toggle label="Count in" on={counts} onChange={setCounts} />}
        <Toggle
          label="Sound"
          hint="This browser’s microphone is recorded along; timecode in it is heard"
          on={microphone.on}
          onChange={(on) => (on ? void openMicrophone(sendSound) : closeMicrophone())}
        />
      </Flex>
      {microphone.stream && (
        <Box mt="1.5" h="6px" bg="bg.lane" borderRadius="2px" overflow="hidden" title="Level of the microphone">
          <Box ref={level} h="100%" bg="wave" style={{ width: "0%" }} aria-label="Level" />
        </Box>
      )}
      {state.timecode && (
        <Text
          mt="1.5"
          fontSize="sm"
          title="Packets that bring no timecode of their own are counted by it"
          role="status"
        >
          Timecode in the sound{" "}
          <Text as="span" fontFamily="number">
            {state.timecode.label}
          </Text>{" "}
          at {state.timecode.rate}
        </Text>
      )}
      {microphone.problem && (
        <Text mt="1.5" role="alert" fontSize="sm">
          {microphone.problem}
        </Text>
      )}
      {!running && (
        <Text fontSize="sm" color="dim" mt="1.5">
          The five seconds before are kept too.
        </Text>
      )}
      {state.keeping > 0 && <Text mt="1.5">Making takes of it…</Text>}
      {state.last && !running && (
        <Plain asChild mt="1.5" size="2xs">
          <Link to={`/${production}/gather/${state.last}`}>Open the last one</Link>
        </Plain>
      )}
      {state.said?.slice(-3).map((words, i) => (
        <Text key={i} fontSize="sm" color="dim" mt="1">
          {words}
        </Text>
      ))}
    </Section>
  );
}
