// The Tidy desk's drawer: what looks wrong, the steps that mend it, keys, and comparing.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { PanelTabs } from "../../drawer/PanelTabs";
import { Section } from "../../drawer/parts";
import { useKeys } from "../../keys/keys";
import { forgetSnags, lookThrough, useSnags } from "../../snags/snags";
import { activeSession, useOpen } from "../../workspace/workspace";
import { stopTrial } from "../../workspace/trial";
import { ComparePanel } from "./ComparePanel";
import { KeysPanel } from "./KeysPanel";
import { SnagsPanel } from "../../snags/SnagsPanel";
import { TidyIt } from "./TidyIt";
import { StackPanel } from "./StackPanel";

const Snags = () => (
  <SnagsPanel what="the take" on="the tidied curves">
    <TidyIt />
  </SnagsPanel>
);
const PANELS = { snags: Snags, stack: StackPanel, keys: KeysPanel, compare: ComparePanel };
type Panel = keyof typeof PANELS;
const WORDS: Record<Panel, string> = { snags: "Snags", stack: "Stack", keys: "Keys", compare: "Compare" };

export function TidyDrawer() {
  const { opened } = useOpen("opened");
  const [panel, setPanel] = useState<Panel>("snags");
  const count = useSnags((s) => s.list?.snags.length);
  const take = opened!.take.id;
  const version = opened!.take.version;
  const has = !!opened!.sources.curves;

  useEffect(() => {
    if (has) void lookThrough(activeSession());
  }, [take, version, has]);
  useEffect(
    () => () => {
      stopTrial();
      forgetSnags();
      useKeys.setState({ tool: "scrub", chosen: {}, drag: null });
    },
    [],
  );
  useEffect(() => useKeys.setState({ chosen: {}, drag: null }), [take]);

  if (!has)
    return (
      <Section title="Tidy">
        <Text color="dim">
          This take has no curves. Bring in a curve table at the Gather desk, or solve its clip at the Solve desk.
        </Text>
      </Section>
    );
  const Shown = PANELS[panel];
  return (
    <Flex direction="column" h="100%" data-testid="tidy-drawer">
      <PanelTabs
        panels={WORDS}
        shown={panel}
        onShow={setPanel}
        aside={(name) => name === "snags" && count !== undefined && ` ${count}`}
      />
      <Box flex="1" minH="0" overflowY="auto">
        <Shown />
      </Box>
    </Flex>
  );
}
