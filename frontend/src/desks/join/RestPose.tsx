// Which pose of the body counts as its rest: that of its file, one that was kept with the match, or one that was held in the take.
import { Box, Flex, Text } from "@chakra-ui/react";
import { Plain, Section } from "../../drawer/parts";
import { otherwise, type Report } from "../../match/matchModel";
import { clock } from "../../playback/clock";
import { edit, useOpen, useSession } from "../../workspace/workspace";
import { useJoinReport } from "../../workspace/useJoinReport";

const FAR = 12; // degrees between limbs at rest from which on they are worth a word

export function RestPose({ report }: { report: Report }) {
  const { opened } = useOpen("opened");
  const rate = useSession((s) => s.curves?.rate ?? 60);
  const offset = useJoinReport()?.offset ?? 0;
  const join = opened!.join.body;
  const at = join.calibration;
  const use = (seconds: number | null) =>
    void edit("join", seconds === null ? "rest of the file" : "rest from a held pose", [
      { path: "calibration", value: seconds },
    ]);
  // Seconds of the body at the playhead.
  const here = () => clock.frame / rate + offset - join.nudge / rate;
  const far = otherwise(report, FAR);
  return (
    <Section
      title="Rest pose"
      aside={
        at !== null && (
          <Plain size="2xs" onClick={() => use(null)}>
            Rest of the file
          </Plain>
        )
      }
    >
      <Text>
        {at !== null
          ? `As it is held at ${at.toFixed(2)} s of the body`
          : report.kept?.posed
            ? "As it is kept with the match"
            : "That of the body's file"}
      </Text>
      {report.held.map((h) => (
        <Flex key={h.first} align="center" justify="space-between" gap="2" py="0.5" data-testid="held-pose">
          <Text fontSize="sm" minW="0">
            Held {h.first.toFixed(1)} to {h.last.toFixed(1)} s: {h.pose || "a pose of its own"}
          </Text>
          <Plain
            size="2xs"
            flexShrink={0}
            disabled={at !== null && at >= h.first && at <= h.last}
            onClick={() => use(Math.round(50 * (h.first + h.last)) / 100)}
          >
            Use it
          </Plain>
        </Flex>
      ))}
      {!report.held.length && (
        <Text fontSize="sm" color="dim">
          Nobody holds still for 3 s in this take.
        </Text>
      )}
      <Flex mt="1">
        <Plain
          size="2xs"
          title="The performer stands here as the character does at rest"
          disabled={here() < 0}
          onClick={() => use(Math.round(100 * here()) / 100)}
        >
          The pose at the playhead
        </Plain>
      </Flex>
      {far.length > 0 && (
        <Box mt="2" fontSize="sm" color="dim">
          {far
            .slice(0, 4)
            .map(([name, degrees]) => `${name} ${degrees.toFixed(0)}°`)
            .join(", ")}
          {far.length > 4 && ` and ${far.length - 4} more`} lie otherwise at rest; limbs are laid along the body's, what
          is left is turned by hand.
        </Box>
      )}
    </Section>
  );
}
