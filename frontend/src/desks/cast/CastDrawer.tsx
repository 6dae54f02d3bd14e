// The Cast desk's drawer: the rig, what drives its targets and joints, how strongly, and where that is judged.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { PanelTabs } from "../../drawer/PanelTabs";
import { Section } from "../../drawer/parts";
import { useOpen } from "../../workspace/workspace";
import { stopTrial } from "../../workspace/trial";
import { ExtremesPanel } from "./ExtremesPanel";
import { JointPanel } from "./JointPanel";
import { MatchPanel } from "./MatchPanel";
import { stopPlaying } from "./playShapes";
import { RigPanel } from "./RigPanel";
import { StrengthPanel } from "./StrengthPanel";

const PANELS = {
  rig: "Rig",
  matches: "Matches",
  joints: "Joints",
  strengths: "Strengths",
  extremes: "Extremes",
} as const;
type Panel = keyof typeof PANELS;

/** What the sheet matches now; asked again with each version of sheet and character. */
export function useCastReport() {
  const { opened } = useOpen("opened");
  const asked = !!opened!.sources.curves && !!opened!.character;
  return useQuery({
    queryKey: ["cast", opened!.take.id, opened!.cast?.version, opened!.character?.id, opened!.character?.version],
    queryFn: () => api.castReport(opened!.take.id),
    enabled: asked,
    placeholderData: (before) => before,
  }).data;
}

export function CastDrawer() {
  const { opened } = useOpen("opened");
  const [panel, setPanel] = useState<Panel>("rig");
  const report = useCastReport();
  useEffect(
    () => () => {
      stopTrial();
      stopPlaying();
    },
    [],
  );
  const unmatched = report ? report.unused.length : 0;
  const body =
    panel === "rig" ? (
      <RigPanel />
    ) : !report ? (
      <Section title={PANELS[panel]}>
        <Text color="dim">
          {opened!.character
            ? "This take has no curves yet, so there is nothing to cast."
            : "Choose a character first, on the Rig page."}
        </Text>
      </Section>
    ) : panel === "matches" ? (
      <MatchPanel report={report} />
    ) : panel === "joints" ? (
      <JointPanel report={report} />
    ) : panel === "strengths" ? (
      <StrengthPanel report={report} />
    ) : (
      <ExtremesPanel />
    );
  return (
    <Flex direction="column" h="100%" data-testid="cast-drawer">
      <PanelTabs
        panels={PANELS}
        shown={panel}
        onShow={setPanel}
        aside={(name) =>
          name === "matches" &&
          unmatched > 0 && (
            <Text as="span" color="accent" title={`${unmatched} targets that nothing drives`}>
              {" "}
              {unmatched}
            </Text>
          )
        }
      />
      <Box flex="1" minH="0" overflowY="auto">
        {body}
      </Box>
    </Flex>
  );
}
