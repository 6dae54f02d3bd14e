// Where the performer is most extreme, over all takes, as pictures of the character: one look tells where lips cross.
import { Box, SimpleGrid, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, type Extreme } from "../../api/client";
import { notify } from "../../shared/notices";
import { Section, Toggle } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { takePictures } from "../../viewer/pictures";
import type { Body } from "../../workspace/tables";
import { useOpen, wishFrame } from "../../workspace/workspace";
import { proposalChanges } from "./MeasuredSection";

export function ExtremesPanel() {
  const { opened } = useOpen("opened");
  const [measured, setMeasured] = useState(false);
  const take = opened!.take.id;
  const version = [
    take,
    opened!.take.version,
    opened!.cast?.version,
    opened!.character?.id,
    opened!.character?.version,
  ];
  const proposals =
    useQuery({
      queryKey: ["proportions", take, opened!.character?.id, opened!.character?.version, opened!.cast?.version],
      queryFn: () => api.proportions(take),
    }).data?.proposals ?? [];
  const found = useQuery({ queryKey: ["extremes", ...version], queryFn: () => api.extremes(take) });
  const after = useQuery({
    queryKey: ["extremes after", ...version, proposals.length],
    queryFn: () => api.extremes(take, proposalChanges(proposals)),
    enabled: measured && proposals.length > 0,
  });
  const shown = measured && after.data ? after.data : found.data;
  const wrong = shown?.filter((e) => e.words.length).length ?? 0;
  return (
    <Section
      title="Extremes"
      aside={
        proposals.length > 0 ? (
          <Toggle
            label="as measured"
            hint="The same moments with the measured strengths"
            on={measured}
            onChange={setMeasured}
          />
        ) : undefined
      }
    >
      <Text fontSize="sm" color="dim" mb="2">
        {!shown
          ? "Looking through all takes of the performer…"
          : `The farthest of each way over all takes of ${opened!.take.body.performer || "this performer"}. ` +
            (wrong ? `In ${wrong} the mesh goes through itself.` : "Nowhere does the mesh go through itself.")}
      </Text>
      {shown && <Pictures extremes={shown} />}
    </Section>
  );
}

function Pictures({ extremes }: { extremes: Extreme[] }) {
  const { production = "" } = useParams();
  const navigate = useNavigate();
  const { opened } = useOpen("opened");
  const source = opened!.character!.body.source;
  const [pictures, setPictures] = useState<Record<number, string>>({});
  useEffect(() => {
    let gone = false;
    const poses = extremes.map(
      (e) => (scene: { pose: (body: Body, frame: number, tried: Record<string, number>) => void }) =>
        scene.pose(bodyOf(e), 0, {}),
    );
    void takePictures(
      source,
      poses,
      (i, picture) => setPictures((p) => ({ ...p, [i]: picture })),
      () => gone,
    ).catch(notify as never);
    return () => {
      gone = true;
    };
  }, [extremes, source]);
  const go = (e: Extreme) => {
    if (e.take === opened!.take.id) return clock.seekFrame(e.frame);
    wishFrame(e.take, e.frame);
    void navigate(`/${production}/cast/${e.take}`);
  };
  return (
    <SimpleGrid columns={2} gap="1.5" data-testid="extremes">
      {extremes.map((e, i) => (
        <Box
          as="button"
          key={e.way}
          textAlign="left"
          borderWidth="1px"
          borderColor={e.words.length ? "accent" : "line"}
          borderRadius="sm"
          overflow="hidden"
          cursor="pointer"
          _hover={{ borderColor: "paper" }}
          title={[`${e.slate}, frame ${e.frame}`, ...e.words].join("\n")}
          aria-label={`Extreme ${e.way}`}
          onClick={() => go(e)}
        >
          {pictures[i] ? (
            <img src={pictures[i]} alt="" style={{ display: "block", width: "100%" }} data-ready />
          ) : (
            <Box pb="93%" bg="bg.ground" />
          )}
          <Box px="1.5" py="1">
            <Text fontSize="sm" truncate>
              {e.way}{" "}
              <Text as="span" color="dim" fontFamily="number">
                {e.value.toFixed(2)}
              </Text>
            </Text>
            <Text fontSize="xs" color={e.words.length ? "accent" : "dim"} truncate>
              {e.words.length ? e.words.join("; ") : `${e.slate}, ${e.frame}`}
            </Text>
          </Box>
        </Box>
      ))}
    </SimpleGrid>
  );
}

/** One frame as the scene poses it. */
function bodyOf(e: Extreme): Body {
  return {
    targets: e.targets,
    still: e.still as [string, string][],
    weights: { data: Float32Array.from(e.weights), shape: [1, e.weights.length] },
    joints: e.joints,
    motion: { data: Float32Array.from(e.motion), shape: [1, e.joints.length, 4] },
    rootJoint: "",
    root: null,
    shifted: e.shifted,
    shifts: { data: Float32Array.from(e.shifts), shape: [1, e.shifted.length, 3] },
    kept: [],
    crossings: [],
  };
}
