// One action that proposes a whole stack from what is measured; nothing is changed until it is taken.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, type StackProposal } from "../../api/client";
import { useCatalogue } from "../../shared/catalogue";
import { notify } from "../../shared/notices";
import { Plain, Primary, Section } from "../../drawer/parts";
import { edit, setComparing, useOpen } from "../../workspace/workspace";
import { stopTrial, tryOut, useTrial } from "../../workspace/trial";
import { orderOf, whereOf } from "./stack";

export function TidyIt() {
  const { opened } = useOpen("opened");
  const { steps } = useCatalogue();
  const trial = useTrial();
  const [made, setMade] = useState<{ take: string; version: number; proposal: StackProposal } | null>(null);
  const [busy, setBusy] = useState(false);
  const take = opened!.take;
  const current = made && made.take === take.id && made.version === take.version ? made.proposal : null;
  const propose = async () => {
    setBusy(true);
    try {
      setMade({ take: take.id, version: take.version, proposal: await api.proposal(take.id) });
    } catch (error) {
      notify(error instanceof Problem ? error : new Problem(0, String(error)));
    }
    setBusy(false);
  };
  const tidy = current?.tidy;
  return (
    <Section
      title="Tidy it"
      aside={
        !tidy && (
          <Primary disabled={busy} onClick={() => void propose()}>
            {busy ? "Measuring…" : "Propose a stack"}
          </Primary>
        )
      }
    >
      {!tidy && (
        <Text fontSize="sm" color="dim">
          Measures noise, gaps and faults of this take and proposes steps. You see what they do before anything changes.
        </Text>
      )}
      {tidy && (
        <Box data-testid="proposal">
          {orderOf(tidy).map((key, index) => (
            <Flex key={key} gap="2" py="1">
              <Text color="dim" w="14px">
                {index + 1}
              </Text>
              <Box minW="0">
                <Text fontWeight="600">
                  {steps.find((s) => s.name === tidy.steps[key]!.step)?.label}{" "}
                  <Text as="span" color="dim" fontWeight="400">
                    {whereOf(tidy.steps[key]!)}
                  </Text>
                </Text>
                <Text fontSize="sm" color="dim">
                  {current!.reasons[key]}
                </Text>
              </Box>
            </Flex>
          ))}
          <Flex gap="1.5" mt="1.5">
            <Primary
              onClick={() => {
                stopTrial();
                void edit("take", "tidy it", [{ path: "tidy", value: tidy }]);
                setMade(null);
              }}
            >
              Use these steps
            </Primary>
            <Plain
              aria-pressed={!!trial.name}
              onClick={() => {
                if (trial.name) stopTrial();
                else {
                  setComparing(true);
                  void tryOut("proposed stack", { take: [{ path: "tidy", value: tidy }] }, null);
                }
              }}
            >
              {trial.name ? "Show as it is" : "Show"}
            </Plain>
            <Plain
              onClick={() => {
                stopTrial();
                setMade(null);
              }}
            >
              Never mind
            </Plain>
          </Flex>
        </Box>
      )}
    </Section>
  );
}
