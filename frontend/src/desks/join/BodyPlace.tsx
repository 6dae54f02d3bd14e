// Where the body belongs in time: found by the head that both recordings saw, or by a clap, each with the picture of its fit.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { FitPicture } from "../../drawer/FitPicture";
import { Plain, Primary, Section } from "../../drawer/parts";
import { notify } from "../../shared/notices";
import { edit, useOpen } from "../../workspace/workspace";

const WORDS: Record<string, string> = { motion: "By the head's motion", clap: "By a clap" };

type Props = { rate: number; nudge: number; offset: number | null };

/** nudge: frames by which the body is moved later now; offset: seconds into it at which the take begins by timecode. */
export function BodyPlace({ rate, nudge, offset }: Props) {
  const { opened } = useOpen("opened");
  const [found, setFound] = useState<Schemas["BodyFound"] | null>(null);
  const [busy, setBusy] = useState(false);
  const ask = async () => {
    setBusy(true);
    try {
      setFound(await api.findBody(opened!.take.id));
    } catch (error) {
      notify(error as never);
    } finally {
      setBusy(false);
    }
  };
  const move = (fit: Schemas["BodyFit"]) =>
    void edit("join", `line the body up by ${fit.how}`, [{ path: "nudge", value: Math.round(fit.nudge * 100) / 100 }]);
  const now = nudge / rate - (offset ?? 0);
  return (
    <Section
      title="Line up"
      aside={
        <Plain size="2xs" disabled={busy} onClick={() => void ask()}>
          Find where the body belongs
        </Plain>
      }
    >
      {!found && (
        <Text fontSize="sm" color="dim">
          Compares how the head turns in both takes, and a clap that was heard and seen. Nothing moves until you say so.
        </Text>
      )}
      {found?.fits.map((fit) => (
        <Box key={fit.how} mb="2" data-testid="body-fit">
          <FitPicture found={fit} now={now} label={`${WORDS[fit.how]}: how well the takes fit at each offset`} />
          <Flex align="center" justify="space-between" mt="1" gap="2">
            <Text minW="0">
              {WORDS[fit.how]}: {((fit.offset - now) * rate).toFixed(1)} frames from here,{" "}
              {fit.confident ? "sure" : "unsure"} ({(fit.confidence * 100).toFixed(0)}%)
            </Text>
            <Move fit={fit} onClick={() => move(fit)} />
          </Flex>
        </Box>
      ))}
      {found?.silent.map((way) => (
        <Text key={way.how} fontSize="sm" color="dim">
          {WORDS[way.how]}: {way.why}.
        </Text>
      ))}
    </Section>
  );
}

/** What is not sure is offered, not urged. */
function Move({ fit, onClick }: { fit: Schemas["BodyFit"]; onClick: () => void }) {
  const Kind = fit.confident ? Primary : Plain;
  return (
    <Kind size="2xs" flexShrink={0} onClick={onClick}>
      Move the body there
    </Kind>
  );
}
