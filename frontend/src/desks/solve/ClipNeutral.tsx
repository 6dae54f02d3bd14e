// Which frames of the clip a solve without a card took for neutral; another is taken by one click.
import { Flex, Text } from "@chakra-ui/react";
import { Plain } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useRestingFrame } from "../../playback/useClock";
import { spansOf } from "./spanOfClip";

const MOST = 4; // spans that are named

/** neutral: frames of the clip, rising; start: the clip's frame at which the deck begins. */
type Props = { neutral: number[]; start: number; busy: boolean; onTake: (frame: number) => void };

export function ClipNeutral({ neutral, start, busy, onTake }: Props) {
  const frame = useRestingFrame() + start;
  const spans = spansOf(neutral);
  return (
    <Flex mt="1.5" gap="2" align="flex-start" data-testid="clip-neutral">
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        Neutral
      </Text>
      <Flex flex="1" gap="1" wrap="wrap" align="center">
        {spans.slice(0, MOST).map(([first, last]) => (
          <Plain
            key={first}
            size="2xs"
            fontFamily="number"
            title="Show what was taken for neutral"
            disabled={first < start}
            onClick={() => clock.seekFrame(first - start)}
          >
            {first === last ? first : `${first}..${last}`}
          </Plain>
        ))}
        {spans.length > MOST && (
          <Text fontSize="sm" color="dim">
            and {spans.length - MOST} more
          </Text>
        )}
        <Plain
          size="2xs"
          disabled={busy}
          title="Solves the same frames again, with the face about the playhead as neutral"
          onClick={() => onTake(frame)}
        >
          Take {frame} instead
        </Plain>
      </Flex>
    </Flex>
  );
}
