// The in and out of the clip: what of it is solved, with handles on both sides.
import { Box, Flex, Text } from "@chakra-ui/react";
import { Plain } from "../../drawer/parts";
import { edit, useOpen } from "../../workspace/workspace";
import { useRange } from "../../playback/useClock";
import { Frame } from "./SampleStrip";
import { MOST_HANDLES, USUAL_HANDLES, type Span } from "./spanOfClip";

/** span: what is marked, null for the whole clip; start: the clip's frame at which the deck begins; count: the clip's frames. */
export function ClipSpan({ span, start, count }: { span: Span | null; start: number; count: number }) {
  const { opened } = useOpen("opened");
  const range = useRange();
  const put = (label: string, value: Span | null) => void edit("take", label, [{ path: "clipSpan", value }]);
  const marked = range && { first: start + range.from, last: Math.min(start + range.to, count - 1) };
  return (
    <Flex align="center" gap="2" py="0.5" wrap="wrap" data-testid="clip-span" key={opened?.take.id}>
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        In and out
      </Text>
      {span ? (
        <>
          <Box w="58px">
            <Frame
              label="In"
              value={span.first}
              onCommit={(v) =>
                put("set the clip's in", { ...span, first: Math.min(v, count - 1), last: Math.max(span.last, v) })
              }
            />
          </Box>
          <Box w="58px">
            <Frame
              label="Out"
              value={span.last}
              onCommit={(v) =>
                put("set the clip's out", { ...span, first: Math.min(span.first, v), last: Math.min(v, count - 1) })
              }
            />
          </Box>
          <Plain size="2xs" onClick={() => put("work on the whole clip", null)}>
            Whole clip
          </Plain>
          <Flex align="center" gap="2" w="100%">
            <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
              Handles
            </Text>
            <Box w="58px">
              <Frame
                label="Handles"
                value={span.handles}
                onCommit={(v) => put("set handles", { ...span, handles: Math.min(v, MOST_HANDLES) })}
              />
            </Box>
            <Text fontSize="sm" color="dim">
              frames before and after
            </Text>
          </Flex>
        </>
      ) : (
        <Text flex="1" fontSize="sm" color="dim">
          The whole clip, {count} frames.{!marked && " A range of the deck can be its in and out."}
        </Text>
      )}
      {marked && (marked.first !== span?.first || marked.last !== span.last) && (
        <Plain
          size="2xs"
          title="The chosen range of the deck becomes the in and out of the clip"
          onClick={() => put("set in and out", { ...marked, handles: span?.handles ?? USUAL_HANDLES })}
        >
          Take {marked.first}..{marked.last}
        </Plain>
      )}
    </Flex>
  );
}
