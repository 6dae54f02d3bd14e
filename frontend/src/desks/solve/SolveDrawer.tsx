// The Solve desk: footage and performer card make curves; what the chosen solve says, channel by channel.
import { Text } from "@chakra-ui/react";
import { useOpen } from "../../workspace/workspace";
import { Channels } from "./Channels";
import { FootageSolve } from "./FootageSolve";
import { Section, Fact } from "../../drawer/parts";

export function SolveDrawer() {
  const { opened, curves } = useOpen("opened", "curves");
  const { footage, curves: source } = opened!.sources;
  return (
    <>
      {footage && <FootageSolve />}
      {!footage && source && <Section title="Solve"><Fact name="Made by">the device ({source.name})</Fact></Section>}
      {!footage && !source && <Section title="Solve"><Text color="dim">This take has neither footage nor curves. Bring in a clip or a curve table at the Gather desk.</Text></Section>}
      {curves && source && <Channels />}
    </>
  );
}
