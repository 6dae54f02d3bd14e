// The Solve desk: footage and performer card make curves; what the chosen solve says, channel by channel.
import { Text } from "@chakra-ui/react";
import { useOpen } from "../../workspace/workspace";
import { Channels } from "./Channels";
import { FootageSolve } from "./FootageSolve";
import { MarkerSolve } from "./MarkerSolve";
import { Section, Fact } from "../../drawer/parts";

export function SolveDrawer() {
  const { opened, curves } = useOpen("opened", "curves");
  const { footage, markers, curves: source } = opened!.sources;
  return (
    <>
      {footage && <FootageSolve />}
      {markers && <MarkerSolve />}
      {!footage && !markers && source && (
        <Section title="Solve">
          <Fact name="Made by">the device ({source.name})</Fact>
        </Section>
      )}
      {!footage && !markers && !source && (
        <Section title="Solve">
          <Text color="dim">
            This take has neither footage, markers nor curves. Bring in a clip, a .c3d or a curve table at the Gather
            desk.
          </Text>
        </Section>
      )}
      {curves && source && <Channels />}
    </>
  );
}
